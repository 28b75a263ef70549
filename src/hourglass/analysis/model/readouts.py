"""What is shown of a model: its tests, and each coefficient's ratio."""

from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell, estimate
from hourglass.analysis.shared.frozen_model import FrozenModel, number
from hourglass.core.comparison.chi_squared import Test
from hourglass.core.regression.fitted import CoefficientStatus


class ChiSquared(FrozenModel):
    """A named test; without a statistic ``blank`` gives the reason."""

    name: str
    statistic: float | None
    df: int
    p: float | None
    blank: str | None


class RatioReadout(FrozenModel):
    """A hazard ratio with its interval; null where there is none, ``note`` giving the reason.

    ``beta`` is its logarithm, ``z`` that in standard errors.
    """

    ratio: float | None
    lower: float | None
    upper: float | None
    p: float | None
    beta: float | None
    standard_error: float | None
    z: float | None
    status: CoefficientStatus
    note: str

    @property
    def cell_note(self) -> str:
        """For other programs, why the ratio or a limit is not there."""
        if self.ratio is None:
            return self.note
        infinite = self.upper is None and self.lower is not None
        return f"upper limit infinite{self.note and f'; {self.note}'}" if infinite else self.note

    def cell(self, **more: object) -> Cell:
        """The ratio with its limits, in words and as numbers."""
        return estimate(
            self.worded, self.ratio, self.lower, self.upper, note=self.cell_note, **more
        )

    @property
    def interval(self) -> str:
        """Its limits in words; an upper one that is not met is infinite."""
        if self.lower is None and self.upper is None:
            return formatting.BLANK
        _, lower, upper = formatting.ratios(self.ratio, self.lower, self.upper)
        no_upper = self.upper is None and self.lower is not None
        return formatting.interval(lower, formatting.INFINITE if no_upper else upper)

    @property
    def limit(self) -> str:
        """The one limit of a ratio that runs away, in words; blank where there is none."""
        if self.ratio is not None:
            return ""
        lower, upper = formatting.ratios(self.lower, self.upper)
        above = "" if self.lower is None else f"above {lower}; "
        return above if self.upper is None else f"{above}below {upper}; "

    @property
    def shown(self) -> str:
        """The ratio alone, with the decimals that its limits share."""
        return formatting.ratios(self.ratio, self.lower, self.upper)[0]

    @property
    def worded(self) -> str:
        """The ratio with its interval, or why there is none."""
        if self.ratio is None:
            return f"{self.limit}{self.note}"
        return f"{self.shown} ({self.interval})"


class CoefficientReadout(FrozenModel):
    """One ratio: adjusted for the other terms, and on its own in the same rows.

    ``column`` is the coefficient that it is, where that can be worked out; None where it is made of several.
    """

    column: int | None
    label: str
    against: str
    comparison: str
    adjusted: RatioReadout
    alone: RatioReadout


class TermReadout(FrozenModel):
    """A term with its ratios; ``name`` is its column, ``headed`` whether they stand under its name."""

    label: str
    name: str
    headed: bool
    coefficients: list[CoefficientReadout]


class LeftOutReadout(FrozenModel):
    """Rows left out: for want of a value of a column, or by the statement."""

    column: str
    rows: int
    why: str


def chi_squared_readout(name: str, test: Test) -> ChiSquared:
    """A core test as it crosses the edge."""
    return ChiSquared(
        name=name, statistic=number(test.statistic), df=test.df, p=number(test.p), blank=test.blank
    )
