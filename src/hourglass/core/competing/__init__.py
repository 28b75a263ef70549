"""Competing events: how often each comes first, and whether groups differ in it."""
