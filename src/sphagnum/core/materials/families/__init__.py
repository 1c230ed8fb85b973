"""One module per family of materials, all that is particular to it; ``table`` gathers them."""
