"""Keeping studies: PostgreSQL for what is decided and computed, files for bytes."""
