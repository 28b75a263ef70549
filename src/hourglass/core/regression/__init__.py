"""Proportional hazards regression (methods.md, sections 4 and 6)."""
