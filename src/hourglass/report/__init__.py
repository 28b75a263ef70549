"""The report: results worded as a results section, as one HTML file and as tables."""
