"""Cut: pieces, sheets, buying list."""
