"""The chance of many where few are expected."""

from scipy.special import pdtrc


def chance_of_at_least(number: float, expected: float) -> float:
    """The Poisson probability of so many or more."""
    return 1.0 if number <= 0 else float(pdtrc(number - 1, expected))
