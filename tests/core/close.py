"""Comparing what the program computes with the 50 digits of a transcription."""

import numpy as np
from mpmath import mpf

CURVES = 1e-12
TINY = mpf("1e-300")


def near(found, wanted, rel=CURVES, small=TINY):
    """Equal to a relative tolerance, or both nothing."""
    if wanted is None:
        assert found is None or np.isnan(found), found
        return
    assert found is not None, wanted
    apart = abs(mpf(float(found)) - wanted)
    assert apart <= rel * abs(wanted) or apart <= small, (float(found), wanted)


def all_near(found, wanted, rel=CURVES, small=TINY):
    found = list(found)
    assert len(found) == len(wanted)
    for one, other in zip(found, wanted):
        near(one, other, rel, small)
