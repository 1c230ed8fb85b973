"""The offer and the report of a job: what they say, from what the stages say, as documents of typed blocks."""
