"""Fit: the work order."""
