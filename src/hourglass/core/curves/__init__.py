"""Survival curves: how they are estimated, their intervals, what is read off them."""
