"""Shipped data: materials, rules, hazards, spectra and method repeatabilities, each with its source."""
