"""Outlines of panels, their keep-clear zones, areas and pieces."""
