"""Compare: do groups differ, by how much, and when."""
