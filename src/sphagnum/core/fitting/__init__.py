"""Work orders: steps in the right sequence, with times, holds and hazards."""
