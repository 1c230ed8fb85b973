"""Listen: the board of a round."""
