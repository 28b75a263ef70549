"""A first follow-up statement for a new table, with the reason for each of its parts."""
