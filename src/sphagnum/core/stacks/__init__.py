"""Layers to transmission, damping, mass and thickness."""
