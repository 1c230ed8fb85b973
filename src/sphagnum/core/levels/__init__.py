"""Decibels, bands, weighting, ratings, statistics and the comparison of rounds."""
