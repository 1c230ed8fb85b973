"""The best choice of one option per path within limits: exact, with the front between the ends and why it is so."""
