"""Findings as Prepare shows them: those still open, in order, single subjects under the finding about all."""

from collections.abc import Mapping, Sequence

from hourglass.analysis.prepare.finding_effects import WithMoves, ordered_by_effect
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.cohort.findings.finding import Finding
from hourglass.cohort.findings.gravity import Gravity
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.table import Table
from hourglass.cohort.words import MAX_SENTENCE_CHARACTERS, cut

MAX_ROWS_LISTED = 400
MAX_TITLE_CHARACTERS = 300
Kept = Mapping[str, int]
"""Findings decided to be left as they are, with the number of rows that they had then."""


class ChoiceView(FrozenModel):
    """Something that can be decided about a finding; ``at_once`` without a reason."""

    name: str
    label: str
    moves: str = ""
    at_once: bool = False


class SmallCurveView(FrozenModel):
    """A curve of a small picture, and the name of the choice that leads to it."""

    name: str
    choice: str
    times: list[float]
    heights: list[float]


class BesideView(FrozenModel):
    """Rows of one subject side by side, in the columns that differ; ``more`` columns are left out."""

    name: str
    columns: list[str]
    rows: list[int]
    cells: list[list[str]]
    more: int


class MoveView(FrozenModel):
    """What a choice about a finding does to the median, in words."""

    finding: str
    choice: str
    words: str


class FindingView(FrozenModel):
    """A finding still to decide; ``row_count`` is the number of rows, ``rows`` the first of them.

    ``folded`` findings change nothing that is counted by themselves; ``parts`` are findings about one
    each of many that this one is about together.
    """

    key: str
    title: str
    why: str
    rows: list[int]
    row_count: int
    columns: list[str]
    choices: list[ChoiceView]
    picture: list[SmallCurveView]
    folded: bool
    beside: list[BesideView]
    parts: list["FindingView"]


def finding_views(
    table: Table, statement: FollowUpStatement, findings: Sequence[Finding]
) -> tuple[list[FindingView], bool]:
    """Open findings with the effects of their choices, serious ones first; whether some wait for later."""
    ordered, later = ordered_by_effect(table, statement, findings)
    many = {one.finding.key for one in ordered}
    parts: dict[str, list[FindingView]] = {}
    for one in ordered:
        if one.finding.within in many:
            parts.setdefault(one.finding.within, []).append(_reading(one, []))
    shown = [
        _reading(one, parts.get(one.finding.key, []))
        for one in ordered
        if one.finding.within not in many
    ]
    return shown, later


def open_findings(found: Sequence[Finding], kept: Kept) -> list[Finding]:
    """Findings still to decide: one that was kept is open again once it names more rows."""
    settled = {f.key for f in found if f.key in kept and f.rows.size <= kept[f.key]}
    return [f for f in found if f.key not in settled and f.within not in settled]


def _reading(with_moves: WithMoves, parts: list[FindingView]) -> FindingView:
    f = with_moves.finding
    return FindingView(
        key=f.key,
        title=cut(f.title, MAX_TITLE_CHARACTERS),
        why=cut(f.why, MAX_SENTENCE_CHARACTERS),
        rows=[int(n) for n in f.rows[:MAX_ROWS_LISTED]],
        row_count=int(f.rows.size),
        columns=list(f.columns),
        choices=[
            ChoiceView(
                name=c.name,
                label=c.label,
                moves=with_moves.moves.get(c.name, ""),
                at_once=bool(c.codes),
            )
            for c in f.choices
        ],
        folded=with_moves.gravity is Gravity.NOTED,
        picture=[
            SmallCurveView(
                name=c.name, choice=c.choice, times=list(c.times), heights=list(c.heights)
            )
            for c in f.picture
        ],
        beside=[
            BesideView(
                name=b.name,
                columns=list(b.columns),
                rows=list(b.rows),
                cells=[list(line) for line in b.cells],
                more=b.more,
            )
            for b in f.beside
        ],
        parts=parts,
    )
