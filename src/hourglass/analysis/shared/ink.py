"""The tone of what belongs to no group."""

INK = -1
