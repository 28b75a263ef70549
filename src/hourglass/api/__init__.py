"""The HTTP edge: requests to pure functions and back, errors as problem details (RFC 9457)."""
