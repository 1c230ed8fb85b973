"""Budgets of the ways noise takes to the listener: shares, ceilings, block-off tests."""
