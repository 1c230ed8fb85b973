"""Build: one surface in section, curve, limits, rules."""
