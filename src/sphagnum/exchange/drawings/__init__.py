"""Shapes at 1:1 out to SVG, DXF and tiled PDF, and in from SVG and DXF."""
