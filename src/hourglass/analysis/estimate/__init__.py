"""Estimate: survival of everyone."""
