"""Statements in, results out: pure functions between a cohort and what people read."""
