"""What the choices about a finding do to the median: from what to what."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hourglass.analysis.shared import wording
from hourglass.cohort.derive import Derivation, derive
from hourglass.cohort.findings.finding import Finding
from hourglass.cohort.findings.gravity import Gravity, gravity_of
from hourglass.cohort.followup import decimals_of, rows_followed, unusable
from hourglass.cohort.shape import shaped
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.apply import apply_steps
from hourglass.cohort.table import Table
from hourglass.core.curves.quantiles import quantile
from hourglass.core.curves.survival import survival_curve
from hourglass.core.errors import RefusedRowsError
from hourglass.core.risk_table import risk_table

MOST_ROWS = 400_000
"""Rows, times choices, whose curves are drawn for it: more would delay the first screen."""


@dataclass(frozen=True, slots=True)
class Median:
    """A median, None where it is not reached, with the decimals it is shown with."""

    time: float | None
    decimals: int

    @property
    def shown(self) -> str:
        return wording.computed_time(self.time, self.decimals)

    def apart(self, other: "Median") -> float:
        """How far two medians lie apart, in proportion; infinite where one is not reached or 0."""
        if not self.time or not other.time:
            return np.inf
        return float(abs(np.log(self.time / other.time)))


@dataclass(frozen=True, slots=True)
class WithMoves:
    """A finding, how it bears on the curve, and what each choice that moves the median does to it."""

    finding: Finding
    gravity: Gravity
    moves: dict[str, str]
    farthest: float


def ordered_by_effect(
    table: Table, statement: FollowUpStatement, findings: Sequence[Finding]
) -> list[WithMoves]:
    """Findings with what their choices do to the median, those that may change the curve most first."""
    some = [f for f in findings if gravity_of(f) <= Gravity.CURVE]
    curves = sum(1 for f in some for choice in f.choices if choice.steps)
    before = _median(table, statement) if curves * table.size <= MOST_ROWS else None
    found = [_with_moves(table, statement, f, before) for f in findings]
    return sorted(found, key=lambda one: (one.gravity, -one.farthest))


def _with_moves(
    table: Table, statement: FollowUpStatement, finding: Finding, before: Median | None
) -> WithMoves:
    gravity, moves, farthest = gravity_of(finding), dict[str, str](), 0.0
    for choice in finding.choices if gravity <= Gravity.CURVE else ():
        if not choice.steps or before is None:
            continue
        after = _median(apply_steps(table, choice.steps)[0], statement)
        if after is not None and before.shown != after.shown:
            unit = "" if after.time is None else f" {statement.unit}"
            moves[choice.name] = f"{choice.label}: median {before.shown} → {after.shown}{unit}"
            farthest = max(farthest, before.apart(after))
    return WithMoves(finding, gravity, moves, farthest)


def _median(table: Table, statement: FollowUpStatement) -> Median | None:
    """The median of the rows that can be followed as they are; None where there are none with the event."""
    derived = derive(table, statement)
    if not isinstance(derived, Derivation) or table.size == 0:
        return None
    made = shaped(derived, statement)
    known = np.array([m is not None for m in made.derived.meanings], dtype=bool)
    fit = made.kept & known[made.derived.code_of]
    for _, bad, _ in unusable(made.derived, statement):
        fit &= ~bad
    if not fit.any():
        return None
    try:
        data, _ = rows_followed(table, statement, made.derived, np.flatnonzero(fit))
    except RefusedRowsError:
        return None
    if not data.event().any():
        return None
    time = quantile(survival_curve(risk_table(data)), 0.5).time
    return Median(time, decimals_of(data.exit))
