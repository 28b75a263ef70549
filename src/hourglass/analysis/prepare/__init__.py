"""Prepare: what was found in a data extract, and how follow-up is made from it."""
