"""Olden Hourglass: censored follow-up data, from a messy data extract to a report that survives review."""

VERSION = "0.1.0"
