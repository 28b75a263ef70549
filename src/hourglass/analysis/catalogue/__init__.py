"""The methods that a statement may name: one entry each, with its object, its words and its sources."""
