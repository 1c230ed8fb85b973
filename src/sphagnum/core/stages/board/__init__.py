"""The job board: a job at a glance, and what jobs teach."""
