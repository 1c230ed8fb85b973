"""Trace: the budget of paths, tests, the ranked plan."""
