"""The trade's rules as data and tests: evaluated against stacks, surfaces and jobs."""
