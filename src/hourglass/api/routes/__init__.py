"""One module a part of the API."""
