"""A new export beside the one it would take the place of: rows, findings and every stage's headline."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from hourglass.analysis.export_cells import (
    ChangedCell,
    GraverChange,
    changed_cells,
    losses,
    shown_key,
)
from hourglass.analysis.model.design import UnusableTermError
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.stage import Stage
from hourglass.analysis.shared.statement import StageStatement
from hourglass.analysis.shared.typed import Typed
from hourglass.cohort.carry import row_keys
from hourglass.cohort.findings.find import find
from hourglass.cohort.findings.finding import Finding
from hourglass.cohort.followup import Cohort, form_cohort
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.apply import StepEffect, made_by_steps
from hourglass.cohort.table import NoSuchColumnError, Table
from hourglass.core.errors import NotEstimableError
from hourglass.core.watch import Watch

MOST_ROWS_LISTED = 2_000


@dataclass(frozen=True, slots=True)
class ExportSide:
    """A export as read, after its steps, and what those did."""

    raw: Table
    after: Table
    effects: tuple[StepEffect, ...]


@dataclass(frozen=True, slots=True)
class AskedStage:
    """An analysis to be computed on both sides.

    Attributes:
        stage: what it is; ``name``: what it is called beside others of its stage.
        own: the statements that somebody wrote, by stage; ``needs``: the stages they belong to.
    """

    stage: Stage
    name: str
    own: Mapping[str, StageStatement]
    needs: Mapping[str, Stage]

    @property
    def title(self) -> str:
        """What it is called."""
        return f"{self.stage.title} {self.name}".strip()

    def headline(self, cohort: Cohort, watch: Watch) -> str:
        """Its result in a line, or why there is none."""
        asked = {
            name: self.own.get(name) or stage.default(cohort) for name, stage in self.needs.items()
        }
        try:
            return self.stage.run(cohort, asked, watch).headline
        except (NoSuchColumnError, UnusableTermError, NotEstimableError) as error:
            return f"not there: {error}"


class HeadlinePair(Typed):
    """A result in a line, on the old export and on the new one."""

    stage: str
    before: str
    after: str


class ExportComparison(Typed):
    """What accepting the new export would change."""

    known_by: str
    rows_before: int
    rows_after: int
    new: int
    gone: int
    changed: int
    new_rows: list[str]
    gone_rows: list[str]
    graver: list[GraverChange]
    changed_cells: list[ChangedCell]
    columns_new: list[str]
    columns_gone: list[str]
    findings_new: list[str]
    broken: list[str]
    not_found: list[str]
    headlines: list[HeadlinePair]


def compare_exports(
    before: ExportSide,
    after: ExportSide,
    statement: FollowUpStatement,
    asked: Sequence[AskedStage],
    not_found: Sequence[str],
    watch: Watch,
) -> ExportComparison:
    """Set two exports side by side."""
    watch("comparing the rows", 0.1)
    old, new = before.raw, after.raw
    subject = (
        statement.subject if old.has(statement.subject) and new.has(statement.subject) else None
    )
    old_keys, new_keys = row_keys(old, subject), row_keys(new, subject)
    places = {key: k for k, key in enumerate(old_keys)}
    fresh = [key for key in new_keys if key not in places]
    there = set(new_keys)
    gone = [key for key in old_keys if key not in there]
    pairs = [(places[key], k) for k, key in enumerate(new_keys) if key in places]
    was, now = np.array(pairs, dtype=np.int64).reshape(-1, 2).T
    cells, changed = changed_cells(old, new, was, now, new_keys)
    watch("looking for findings", 0.4)
    known = {f.key for f in _findings(before, statement)}
    found = [f.title for f in _findings(after, statement) if f.key not in known]
    watch("computing every stage on both", 0.5)
    return ExportComparison(
        known_by=subject or "",
        rows_before=old.size,
        rows_after=new.size,
        new=len(fresh),
        gone=len(gone),
        changed=changed,
        new_rows=[shown_key(key) for key in fresh[:MOST_ROWS_LISTED]],
        gone_rows=[shown_key(key) for key in gone[:MOST_ROWS_LISTED]],
        graver=losses(old, new, was, now, new_keys, statement),
        changed_cells=cells,
        columns_new=[c.name for c in new.columns if not old.has(c.name)],
        columns_gone=[c.name for c in old.columns if not new.has(c.name)],
        findings_new=found,
        broken=[f"{e.name}: {e.broken}" for e in after.effects if e.broken],
        not_found=list(not_found),
        headlines=_headlines(before, after, statement, asked, watch),
    )


def _findings(export: ExportSide, statement: FollowUpStatement) -> Sequence[Finding]:
    made = made_by_steps(export.raw, export.after, export.effects)
    try:
        return find(export.after, statement, made=made, raw=export.raw)
    except NoSuchColumnError:
        return ()


def _headlines(
    before: ExportSide,
    after: ExportSide,
    statement: FollowUpStatement,
    asked: Sequence[AskedStage],
    watch: Watch,
) -> list[HeadlinePair]:
    sides = [_side_headlines(side, statement, asked, watch) for side in (before, after)]
    titles = ["Prepare", *(one.title for one in asked)]
    return [
        HeadlinePair(stage=title, before=old, after=new)
        for title, old, new in zip(titles, *sides, strict=True)
    ]


def _side_headlines(
    side: ExportSide, statement: FollowUpStatement, asked: Sequence[AskedStage], watch: Watch
) -> list[str]:
    broken = [e for e in side.effects if e.broken]
    formed = form_cohort(side.after, statement)
    if not isinstance(formed, Cohort) or broken:
        waits = f"step broken: {broken[0].name}" if broken else formed[0].sentence  # type: ignore[index]
        return [waits, *("waits for Prepare" for _ in asked)]
    size, read = wording.grouped(formed.follow_up.size), wording.grouped(side.raw.size)
    found = [f"{size} of {read} rows kept"]
    for one in asked:
        watch(f"computing {one.title}", 0.7)
        found.append(one.headline(formed, watch))
    return found
