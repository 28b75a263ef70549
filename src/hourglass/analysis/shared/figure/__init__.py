"""Figures as descriptions: what a screen draws, a printer prints and a table shows."""
