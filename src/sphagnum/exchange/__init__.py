"""Open formats in and out: the command-line contract, job documents, PDF."""
