"""Time-varying covariates from dated records and periods (methods.md, section 11)."""
