"""The normal quantile of an interval's level."""

from scipy.special import ndtri


def normal_quantile(confidence: float) -> float:
    """z = Φ⁻¹(1 − α/2) for an interval of level 1 − α."""
    return -float(ndtri((1 - confidence) / 2))
