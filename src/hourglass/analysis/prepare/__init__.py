"""Prepare: what was found in a data extract, and how follow-up is told from it."""
