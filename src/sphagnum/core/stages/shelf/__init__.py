"""The Shelf: what the workshop owns and knows of its materials, and what jobs were planned with."""
