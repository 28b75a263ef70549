"""Commands on who is followed: the follow-up statement, findings, the table's layout."""

from dataclasses import dataclass, replace

from hourglass.analysis.unknown_names import refuse_unknown_columns
from hourglass.cohort.derive import outcome_codes
from hourglass.cohort.findings.finding import Finding, statement_for, steps_for
from hourglass.cohort.layouts import recognise
from hourglass.cohort.proposal.waiting import with_waiting_filled
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.apply import apply_steps, refuse_broken
from hourglass.cohort.steps.cells import CorrectCell
from hourglass.cohort.table import Table
from hourglass.core.errors import UserError
from hourglass.study.actions.follow_up import (
    KEEP,
    FindingDecided,
    FollowUpSet,
    LayoutConfirmed,
    fields_set,
)
from hourglass.study.commands.steps import decide
from hourglass.study.findings import findings_of
from hourglass.study.history import NewDecision
from hourglass.study.repository import StudyRepository
from hourglass.study.source import Source
from hourglass.study.study import Study

CORRECT = "correct"


@dataclass(frozen=True, slots=True)
class Correction:
    """A cell, by its row's number and its column, with its right value."""

    row: int
    column: str
    value: str


@dataclass(frozen=True, slots=True)
class Choice:
    """What somebody chose about a finding, by its key; ``corrections`` are cells with their right values."""

    finding: str
    choice: str
    reason: str = ""
    corrections: tuple[Correction, ...] = ()


def follow(
    repository: StudyRepository, study: Study, statement: FollowUpStatement, table: Table
) -> Study:
    """Put the follow-up statement; nothing is logged where nothing changes.

    Args:
        table: as the steps have left it.

    Raises:
        NoSuchColumnError: when it names a column, not named before, that the table does not have.
        UserError: when it gives a meaning to a code that there is not.
    """
    refuse_unknown_columns(statement, study.follow_up, table)
    _refuse_unknown_codes(statement, study.follow_up, table)
    action = FollowUpSet(**fields_set(study.follow_up, statement))
    if statement == study.follow_up:
        return study.left_as_it_is(action)
    snapshot = replace(study.snapshot, follow_up=statement)
    return repository.append(study, NewDecision(action=action), snapshot)


def _refuse_unknown_codes(
    statement: FollowUpStatement, before: FollowUpStatement, table: Table
) -> None:
    outcome = statement.outcome
    if outcome is None or outcome != before.outcome or not table.has(outcome):
        return
    known = {code.casefold() for code in outcome_codes(table.column(outcome))[0]}
    known |= {code.strip().casefold() for code in before.meanings}
    strange = [c for c in statement.meanings if c.strip().casefold() not in known]
    if strange:
        raise UserError(f"{outcome} has no code “{min(strange)}”.", "no-such-code", "meanings")


def decide_finding(
    repository: StudyRepository, study: Study, source: Source, chosen: Choice
) -> Study:
    """Decide about a finding: the steps that it takes are recorded with the decision.

    Raises:
        UserError: when the finding or its choice is not there, or a correction is of another cell.
        BrokenStepError: when a step does not fit; nothing is recorded then.
    """
    assert study.file is not None
    found = findings_of(source, study.file.read_at.date())
    finding = next((f for f in found if f.key == chosen.finding), None)
    choice = None if finding is None else finding.choice(chosen.choice)
    if finding is None or choice is None:
        raise UserError(
            "This finding is no longer there as it was: reload the page.", "finding-gone", "finding"
        )
    table = source.after_steps()
    if choice.codes:
        return follow(repository, study, statement_for(choice, study.follow_up), table)
    corrections = _corrections(finding, chosen)
    steps = steps_for(finding, chosen.choice, corrections)
    after, effects = source.with_steps((*source.steps, *steps)).applied()
    refuse_broken(effects[len(source.steps) :])
    follow_up = with_waiting_filled(study.follow_up, table, after)
    follow_up = statement_for(choice, follow_up)
    action = FindingDecided(
        finding=finding.key,
        choice=chosen.choice,
        rows=int(finding.rows.size) if chosen.choice == KEEP else None,
        title=finding.title,
        done=choice.done,
        corrections=corrections,
        **fields_set(study.follow_up, follow_up),
    )
    return decide(repository, study, action, steps, reason=chosen.reason, follow_up=follow_up)


def _corrections(finding: Finding, chosen: Choice) -> tuple[CorrectCell, ...]:
    if chosen.choice != CORRECT:
        return ()
    allowed = {int(n) for n in finding.rows}
    for c in chosen.corrections:
        if c.row not in allowed or c.column not in finding.columns:
            raise UserError(
                f"Row {c.row}, {c.column} is not one of the cells of this finding.",
                "strange-cell",
                "corrections",
            )
    if not chosen.corrections:
        raise UserError("Write the right value into a cell first.", "no-correction", "corrections")
    return tuple(CorrectCell(row=c.row, column=c.column, value=c.value) for c in chosen.corrections)


def confirm_layout(
    repository: StudyRepository, study: Study, source: Source, layout: str, reason: str = ""
) -> Study:
    """Confirm the table's layout: its steps are taken, and the statement states what it implies.

    Raises:
        UserError: when the table does not have that layout.
    """
    table = source.after_steps()
    guess = next((g for g in recognise(table) if g.key == layout), None)
    if guess is None:
        raise UserError("The table does not have that layout: reload.", "no-such-layout", "layout")
    refuse_broken(apply_steps(table, guess.steps)[1])
    implied = guess.change(study.follow_up) if guess.changes else study.follow_up
    action = LayoutConfirmed(
        layout=guess.key, label=guess.label, **fields_set(study.follow_up, implied)
    )
    return decide(repository, study, action, guess.steps, reason=reason, follow_up=implied)
