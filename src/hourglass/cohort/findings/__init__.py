"""Findings: what Prepare noticed in the rows. None is decided by the program."""
