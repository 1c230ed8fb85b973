"""Sphagnum: the working companion of people who fit sound deadening."""

__version__ = "0.30.1"
