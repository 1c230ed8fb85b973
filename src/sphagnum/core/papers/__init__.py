"""What leaves the house on paper, apart from how it is printed: prices, and documents as sections of typed blocks."""
