"""The columns of a number's term at chosen values of the number."""

import numpy as np

from hourglass.analysis.model.terms.form import Block, TermForm
from hourglass.analysis.model.terms.forms import CurvedTerm, DoublingTerm, NumberTerm
from hourglass.core.arrays import FloatArray


def values_at(of: TermForm, block: Block, values: FloatArray) -> FloatArray:
    """(m, k) the columns of a number's term at some values of the number."""
    if isinstance(of, CurvedTerm):
        return of.at(values, block)
    if isinstance(of, DoublingTerm):
        return np.log2(values)[:, None]
    assert isinstance(of, NumberTerm)
    return values[:, None]
