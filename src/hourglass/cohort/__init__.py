"""From a file's bytes to a cohort one can defend: tables, steps, findings, follow-up."""
