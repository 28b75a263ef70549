"""Comparing groups: tests, their weights, what a statistic comes to."""
