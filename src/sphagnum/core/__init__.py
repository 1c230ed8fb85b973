"""The job's rules and computation. Imports nothing of the rest of the house."""
