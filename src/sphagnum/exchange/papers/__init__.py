"""Documents of typed blocks written out: as PDF, as one HTML page, as CSV, as plain text."""
