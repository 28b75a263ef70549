"""What the choices about a finding do to the median: from what to what."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from hourglass.analysis.shared import formatting
from hourglass.cohort.derive import Derivation, derive
from hourglass.cohort.findings.finding import Choice, Finding
from hourglass.cohort.findings.gravity import Gravity, gravity_of
from hourglass.cohort.followup import rows_followed, unusable
from hourglass.cohort.shape import shaped
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.apply import apply_steps
from hourglass.cohort.table import Table
from hourglass.cohort.time_decimals import TimeDecimals, time_decimals
from hourglass.core.curves.quantiles import quantile
from hourglass.core.curves.survival import survival_curve
from hourglass.core.errors import RefusedRowsError
from hourglass.core.progress import ProgressCallback, no_progress
from hourglass.core.risk_table import risk_table

MAX_ROWS = 400_000
"""Rows, times choices, whose curves are drawn at once: more would delay the first screen."""


@dataclass(frozen=True, slots=True)
class Median:
    """A median, None where it is not reached, with the decimals it is shown with."""

    time: float | None
    decimals: TimeDecimals

    @property
    def shown(self) -> str:
        return formatting.computed_time(self.time, self.decimals)

    def apart(self, other: "Median") -> float:
        """How far two medians lie apart, in proportion; infinite where one is not reached or 0."""
        if not self.time or not other.time:
            return np.inf
        return float(abs(np.log(self.time / other.time)))


@dataclass(frozen=True, slots=True)
class Move:
    """What a choice does to the median, in words, and how far that is in proportion."""

    words: str
    far: float


@dataclass(frozen=True, slots=True)
class WithMoves:
    """A finding, how it bears on the curve, and what each choice that moves the median does to it."""

    finding: Finding
    gravity: Gravity
    moves: dict[str, str]
    farthest: float


def ordered_by_effect(
    table: Table, statement: FollowUpStatement, findings: Sequence[Finding]
) -> tuple[list[WithMoves], bool]:
    """Findings with what their choices do to the median, those that may change the curve most first; and
    whether that is left for later, of so many rows."""
    later = _curves(findings) * table.size > MAX_ROWS
    moves = {} if later else moves_of(table, statement, findings)
    found = [_with_moves(f, moves.get(f.key, {})) for f in findings]
    return sorted(found, key=lambda one: (one.gravity, -one.farthest)), later


def moves_of(
    table: Table,
    statement: FollowUpStatement,
    findings: Sequence[Finding],
    progress: ProgressCallback = no_progress,
) -> dict[str, dict[str, Move]]:
    """What each choice that moves the median does to it, by the finding’s key and the choice’s name."""
    before, all_of_them, done = _median(table, statement), max(_curves(findings), 1), 0
    found: dict[str, dict[str, Move]] = {}
    for finding in findings if before is not None else ():
        for choice in _choices(finding):
            progress("working out what choices do to the median", done / all_of_them)
            done += 1
            after = _median(apply_steps(table, choice.steps)[0], statement)
            if after is not None and before is not None and before.shown != after.shown:
                unit = "" if after.time is None else f" {statement.unit}"
                words = f"{choice.label}: median {before.shown} → {after.shown}{unit}"
                found.setdefault(finding.key, {})[choice.name] = Move(words, before.apart(after))
    return found


def _curves(findings: Sequence[Finding]) -> int:
    """How many curves are drawn to see what choices do."""
    return sum(len(_choices(finding)) for finding in findings)


def _choices(finding: Finding) -> list[Choice]:
    """The choices of a finding about the curve that change the table."""
    if gravity_of(finding) > Gravity.CURVE:
        return []
    return [choice for choice in finding.choices if choice.steps]


def _with_moves(finding: Finding, moves: Mapping[str, Move]) -> WithMoves:
    farthest = max((move.far for move in moves.values()), default=0.0)
    words = {name: move.words for name, move in moves.items()}
    return WithMoves(finding, gravity_of(finding), words, farthest)


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
    return Median(time, time_decimals(data.exit, data.end))
