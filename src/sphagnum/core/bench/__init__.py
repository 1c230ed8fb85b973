"""The Bench: samples compared honestly in the shop's own box; what a series can tell apart, and what it cannot."""
