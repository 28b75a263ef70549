"""Proportional hazards regression
(methods.md, section 4: Proportional hazards regression; section 6: Residuals and checks)."""
