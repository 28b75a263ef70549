"""Slow, literal transcriptions of methods.md, one loop a formula, in 50 digits where it matters."""

import mpmath

mpmath.mp.dps = 50
