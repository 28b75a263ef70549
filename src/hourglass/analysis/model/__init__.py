"""Model: the rate of the event by several terms together."""
