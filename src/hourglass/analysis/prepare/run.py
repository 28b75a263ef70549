"""Prepare: what was read, what was noticed, what the statement makes of the rows."""

from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from datetime import date
from typing import TypeAlias

from hourglass.analysis.prepare.columns import column_views
from hourglass.analysis.prepare.finding_views import Kept, finding_views, open_findings
from hourglass.analysis.prepare.follow_up_figure import follow_up_figure
from hourglass.analysis.prepare.follow_up_lines import follow_up_lines
from hourglass.analysis.prepare.ledger import LedgerView, ledger
from hourglass.analysis.prepare.left_open import offered, still_proposed
from hourglass.analysis.prepare.result import BlockerView, LayoutView, PrepareResult, StepView
from hourglass.analysis.prepare.sentence import follow_up_sentence
from hourglass.analysis.shared import formatting
from hourglass.cohort.derive import derive
from hourglass.cohort.findings.find import find
from hourglass.cohort.findings.finding import Finding
from hourglass.cohort.followup import form_cohort
from hourglass.cohort.layouts import recognise
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.apply import StepEffect, apply_steps, made_by_steps
from hourglass.cohort.steps.broken import broken_blocks
from hourglass.cohort.steps.document import PlacedStep
from hourglass.cohort.table import Table
from hourglass.cohort.words import MAX_SENTENCE_CHARACTERS, cut
from hourglass.core.progress import ProgressCallback, no_progress

Look: TypeAlias = Callable[[], Sequence[Finding]]


def prepare(
    table: Table,
    steps: Sequence[PlacedStep],
    statement: FollowUpStatement,
    kept: Kept,
    today: date | None = None,
    layout_decided: bool = True,
    progress: ProgressCallback = no_progress,
    found_once: Callable[[Look], Sequence[Finding]] = lambda look: look(),
) -> PrepareResult:
    """Apply the steps and state what is there.

    Args:
        table: as read from the file.
        steps: in order, those switched off among them.
        statement: the follow-up statement.
        kept: findings that are decided.
        today: the day the file was read.
        layout_decided: whether somebody has stated which layout the table has.
        found_once: gives the findings, which it may have already, or else has them looked for.
    """
    active = [placed for placed in steps if placed.active]
    progress("carrying out the steps", 0.1)
    after, effects = apply_steps(table, [placed.step for placed in active])
    progress("forming the cohort", 0.3)
    derived = derive(after, statement)
    made_of = form_cohort(after, statement, derived)
    left_open = made_of if isinstance(made_of, tuple) else ()
    blocks = [offered(block, after, statement, layout_decided) for block in left_open]
    blocks += broken_blocks(effects)
    progress("looking for findings", 0.4)
    with ThreadPoolExecutor(1) as beside:
        recognised = beside.submit(lambda: () if layout_decided else recognise(after))
        made = made_by_steps(table, after, effects)
        found = found_once(lambda: find(after, statement, today, made, table, derived))
    guesses = recognised.result()
    findings, moves_later = finding_views(after, statement, open_findings(found, kept))
    progress("drawing the follow-up", 0.9)
    lines, note = follow_up_lines(after, statement, derived)
    formed = None if isinstance(made_of, tuple) or blocks else made_of
    rows = ledger(table, active, effects, statement, formed, derived)
    return PrepareResult(
        sentence=follow_up_sentence(after, statement),
        columns=column_views(after, statement),
        proposed=still_proposed(after, statement),
        layouts=[
            LayoutView(layout=g.key, label=g.label, reason=g.reason)
            for g in (guesses if len(guesses) > 1 else ())
        ],
        findings=findings,
        moves_later=moves_later,
        steps=_steps(steps, effects),
        ledger=rows,
        blocks=[
            BlockerView(sentence=cut(b.sentence, MAX_SENTENCE_CHARACTERS), slot=b.slot)
            for b in blocks
        ],
        figure=follow_up_figure(lines, note, statement.unit),
        headline=_headline(rows, len(blocks)),
    )


def _steps(steps: Sequence[PlacedStep], effects: Sequence[StepEffect]) -> list[StepView]:
    done = iter(effects)
    found = []
    for placed in steps:
        effect = next(done) if placed.active else StepEffect(name=placed.step.named())
        found.append(
            StepView(
                id=placed.id,
                name=effect.name,
                active=placed.active,
                decided=placed.decision is not None,
                step=placed.step,
                rows_set_aside=effect.rows_set_aside,
                cells_changed=effect.cells_changed,
                made=effect.made,
                note=effect.note,
                broken=effect.broken,
            )
        )
    return found


def _headline(rows: LedgerView, blocks: int) -> str:
    if rows.analysed is None:
        return f"{formatting.count(blocks, 'things')} to decide"
    made = next((loss.becomes for loss in reversed(rows.lost) if loss.becomes is not None), None)
    return (
        f"{formatting.grouped(rows.analysed)} of "
        f"{formatting.grouped(rows.read if made is None else made)} rows kept"
    )
