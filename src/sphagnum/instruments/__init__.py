"""Readers of what meters, phone applications and spreadsheets write."""
