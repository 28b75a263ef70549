"""Check: may the model be believed."""
