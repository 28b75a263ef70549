"""Workings: how a figure arose, with its numbers put in, and the terms it is summed from."""
