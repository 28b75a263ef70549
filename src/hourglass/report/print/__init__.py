"""Printing figures from their descriptions: SVG, PDF and PNG."""
