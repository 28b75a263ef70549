"""Packed numbers come back as they were, and bytes that hold anything else are refused."""

import io
import pickle

import numpy as np
import pytest

from hourglass.analysis.shared.curve_form import CurveForm
from hourglass.analysis.shared.curves import curve_numbers
from hourglass.analysis.shared.packing import TABLES, UnknownPackedError, pack, unpack
from hourglass.core.curves.estimators import PRODUCT_LIMIT
from hourglass.core.followup import follow_up


def test_numbers_come_back_and_variants_are_the_ones_there_are():
    numbers = curve_numbers(
        follow_up(np.array([1.0, 2.0, 3.0]), np.array([1, 0, 1])), CurveForm(0.9)
    )
    again = unpack(pack(numbers))
    assert again.estimate.survival.tolist() == numbers.estimate.survival.tolist()
    assert unpack(pack(CurveForm(0.9))).estimator is PRODUCT_LIMIT
    for table in TABLES.values():
        assert all(unpack(pack((one, {"of": one})))[1]["of"] is one for one in table)


class Harmful:
    def __init__(self, call, *given):
        self.call, self.given = call, given

    def __reduce__(self):
        return self.call, self.given


@pytest.mark.parametrize(
    "call",
    [(eval, "1 + 1"), (io.open, "/etc/passwd"), (np.load, "a.npy"), (getattr, "text", "join")],
    ids=lambda call: call[0].__name__,
)
def test_what_would_be_called_is_refused(call):
    with pytest.raises(UnknownPackedError):
        unpack(pickle.dumps(Harmful(*call)))


@pytest.mark.parametrize(
    "named",
    [
        b"chourglass.study.processes\n_end\n.",  # a function of ours
        b"chourglass.analysis.shared.packing\npickle.loads\n.",  # what a module of ours has imported
        b"chourglass.analysis.shared.packing\nAny\n.",
        b"",
        b"nothing of the kind",
        b"\x80\x05.",
    ],
)
def test_other_bytes_are_refused(named):
    with pytest.raises(UnknownPackedError):
        unpack(named)
