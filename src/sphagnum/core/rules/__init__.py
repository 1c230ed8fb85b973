"""The trade's rules, evaluated against stacks and surfaces."""
