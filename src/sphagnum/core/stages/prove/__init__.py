"""Prove: what changed, how sure."""
