"""Which limits of a curve may be drawn and read: pointwise ones, a band, bars, or none
(methods.md, section 2: Survival curve)."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from hourglass.analysis.catalogue.entry import MethodEntry, catalogue
from hourglass.analysis.catalogue.sources import Reference
from hourglass.core.curves import bands as core


@dataclass(frozen=True, slots=True)
class NotABand:
    """Limits, or the lack of them, that no band is computed for."""

    key: str


POINTWISE, BARS, NO_INTERVAL = "pointwise", "standard-error bars", "none"


@dataclass(frozen=True, slots=True, kw_only=True)
class IntervalEntry(MethodEntry):
    """A kind of limits.

    Attributes:
        band: that is computed; None where pointwise limits are read.
        called: what a band is called; ``reach``: what takes the place of z σ, from its critical value
            as it is written and the number of subjects.
        drawn: what the section on methods adds of the figure.
        limits_drawn: whether the limits are in the figure; ``bars``: bars at chosen times are.
    """

    method: core.Band | NotABand
    called: str = ""
    reach: Callable[[str, int], str] = lambda critical, subjects: ""
    drawn: str = ""
    limits_drawn: bool = True
    bars: bool = False

    @property
    def band(self) -> core.Band | None:
        """The band that is computed, if any."""
        return None if isinstance(self.method, NotABand) else self.method


INTERVALS: Mapping[str, IntervalEntry] = catalogue(
    IntervalEntry(
        method=NotABand(POINTWISE), name="pointwise intervals", note="for one time at a time"
    ),
    IntervalEntry(
        method=core.HALL_WELLNER,
        name="simultaneous bands (Hall & Wellner)",
        note="the whole curve at once; wider late, narrower in the middle",
        sources=(
            Reference(
                "Hall & Wellner 1980",
                "Hall WJ, Wellner JA. Confidence bands for a survival curve from censored data. Biometrika "
                "1980; 67: 133–143.",
            ),
        ),
        called="Hall–Wellner",
        reach=lambda critical, n: f"k (1 + n σ²)/√n, k = {critical}, n = {n}",
    ),
    IntervalEntry(
        method=core.EQUAL_PRECISION,
        name="simultaneous bands (equal precision)",
        note="the whole curve at once; a pointwise interval widened everywhere alike (Nair 1984)",
        sources=(
            Reference(
                "Nair 1984",
                "Nair VN. Confidence bands for survival functions with censored data: a comparative study. "
                "Technometrics 1984; 26: 265–275.",
            ),
        ),
        called="equal precision",
        reach=lambda critical, n: f"c σ, c = {critical}",
    ),
    IntervalEntry(
        method=NotABand(BARS),
        name="standard-error bars at the chosen times",
        note="S ± 1 standard error, held to 0 and 100%: no interval, and narrower than one",
        drawn="; the figure shows ± 1 standard error",
        limits_drawn=False,
        bars=True,
    ),
    IntervalEntry(
        method=NotABand(NO_INTERVAL),
        name="no intervals drawn",
        note="the curves alone",
        drawn="; the figure shows none",
        limits_drawn=False,
    ),
    methods=core.BANDS,
)
