"""Find a plan: candidate stacks of every surface, what they give and cost, and the best choice over all of them together."""
