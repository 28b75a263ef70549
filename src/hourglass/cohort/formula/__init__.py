"""A small language for new columns: arithmetic, comparisons, if … then … else, on columns."""
