"""Prepare: what was found in an export, and how follow-up is told from it."""
