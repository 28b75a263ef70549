"""Time-varying covariates from dated records and periods
(methods.md, section 11: Several tables; time-varying covariates)."""
