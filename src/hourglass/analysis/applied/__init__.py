"""A fitted model applied to another cohort."""
