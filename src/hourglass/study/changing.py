"""Changes to a study. Each makes one entry of its log, with all that is decided after it.

A change is made from a study as it was loaded: should somebody have changed it since, it is refused
with :class:`hourglass.study.study.StaleError`.
"""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from hourglass.analysis.level_names import naming_steps, respelled_again
from hourglass.analysis.references import asked_references, reference_step
from hourglass.analysis.shared.changed_words import ChangedWords, shortened
from hourglass.analysis.shared.statement import StageStatement
from hourglass.analysis.unknown_names import refuse_unknown_columns, refuse_unknown_names
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.apply import Step
from hourglass.cohort.steps.document import PlacedStep
from hourglass.cohort.steps.levels import RespellLevels
from hourglass.cohort.table import Table
from hourglass.study.history import ARRANGED, NAMED, PLAIN, READ, SET, WITHDRAWN, NewDecision
from hourglass.study.keeping import Keeping, NewFile
from hourglass.study.level_renaming import renaming_of, with_levels_named
from hourglass.study.study import (
    PREPARE,
    Analysis,
    Decided,
    FileAlreadyReadError,
    NoSuchStudyError,
    NothingToUndoError,
    Study,
)


def attach_file(
    keeping: Keeping, study: Study, file: NewFile, planned: Decided | None = None
) -> Study:
    """Give a study its file, or another while nothing depends on it.

    Args:
        planned: what was decided of the file before it came; else the statement proposed for it is taken.

    Raises:
        FileAlreadyReadError: when steps or statements depend on the file that is there.
    """
    if depended_on(study):
        raise FileAlreadyReadError(
            "Steps, decisions or statements were made for the study's file. Send this one as a new "
            "export, or start a new study."
        )
    before = "" if study.file is None else study.file.name
    entry = NewDecision(
        stage=PREPARE,
        about="file",
        choice=READ,
        sentence=shortened(f"File read: {file.name}"),
        before=before,
        after=file.name,
    )
    decided = planned or replace(study.decided, follow_up=file.reading.proposal)
    with keeping.transaction() as inside:
        export = inside.add_export(study.id, file, waiting=False)
        return inside.append(study, entry, replace(decided, export=export))


def depended_on(study: Study) -> bool:
    """Whether anything was decided that depends on the study's file."""
    about_data = [d for d in study.standing if d.about not in ("study", "file")]
    return study.file is not None and bool(about_data)


def read_again(keeping: Keeping, study: Study, file: NewFile, how_before: str) -> Study:
    """Read the same bytes by another recipe. Steps stay; those that no longer fit say so."""
    how = file.reading.how
    entry = NewDecision(
        stage=PREPARE,
        about="file",
        choice=READ,
        sentence=shortened(f"File read otherwise: {how}"),
        before=how_before,
        after=how,
    )
    with keeping.transaction() as inside:
        export = inside.add_export(study.id, file, waiting=False)
        return inside.append(study, entry, replace(study.decided, export=export))


def use_export(
    keeping: Keeping, study: Study, export: int, name: str, carried: Sequence[PlacedStep] | None
) -> Study:
    """Take another export into use.

    Args:
        carried: the steps carried over to it; None for those it had when it was last in use.
    """
    if carried is None:
        last = keeping.last_with_export(study.id, export)
        carried = () if last is None else last.steps
    before = "" if study.file is None else study.file.name
    entry = NewDecision(
        stage=PREPARE,
        about="export",
        choice=READ,
        sentence=shortened(f"Export in use: {name}"),
        before=before,
        after=name,
    )
    decided = replace(study.decided, export=export, steps=tuple(carried))
    return keeping.append(study, entry, decided)


def decide(
    keeping: Keeping,
    study: Study,
    decision: NewDecision,
    steps: Sequence[Step] = (),
    instead_of: int | None = None,
    follow_up: FollowUpStatement | None = None,
    decided: Decided | None = None,
) -> Study:
    """Log a decision together with the steps that carry it out, and what it says of follow-up.

    Args:
        instead_of: the id of a step that the (one) new step takes the place of.
        decided: what is decided otherwise; as it was when absent.
    """
    new = [PlacedStep(step=step) for step in steps]
    there = list(study.steps)
    places = [k for k, placed in enumerate(there) if placed.id == instead_of]
    replaced = there[places[0]].step if places else None
    renamed = [found for step in steps if (found := renaming_of(step, replaced)) is not None]
    if places:
        new = [new[0].model_copy(update={"active": there[places[0]].active})]
        there[places[0] : places[0] + 1] = new
    else:
        there += new
    decided = decided or study.decided
    decided = replace(decided, steps=tuple(there), follow_up=follow_up or study.follow_up)
    decided = with_levels_named(decided, renamed)
    decision = replace(
        decision, sentence=shortened(decision.sentence), withdraws=steps_left(study, there)
    )
    return keeping.append(study, decision, decided)


def take_step(
    keeping: Keeping,
    study: Study,
    choice: str,
    step: Step,
    reason: str = "",
    instead_of: int | None = None,
    follow_up: FollowUpStatement | None = None,
) -> Study:
    """Take a step, as a decision; ``follow_up`` is the statement with what the step fills of it."""
    before = next((p.step.named() for p in study.steps if p.id == instead_of), "")
    named = shortened(step.named())
    decision = NewDecision(
        stage=PREPARE,
        about="step",
        choice=choice,
        sentence=named,
        reason=reason,
        before=shortened(before),
        after=named,
    )
    return decide(keeping, study, decision, [step], instead_of, follow_up)


def arrange_steps(keeping: Keeping, study: Study, what: str, steps: Sequence[PlacedStep]) -> Study:
    """Move, switch or remove steps; decisions of which no step is left are withdrawn."""
    entry = NewDecision(
        stage=PREPARE,
        about="steps",
        choice=ARRANGED,
        sentence=what,
        withdraws=steps_left(study, steps),
    )
    return keeping.append(study, entry, replace(study.decided, steps=tuple(steps)))


def steps_left(study: Study, steps: Sequence[PlacedStep]) -> tuple[int, ...]:
    """Decisions that had steps and have none among these."""
    had = {p.decision for p in study.steps} - {p.decision for p in steps}
    return tuple(sorted(d for d in had if d is not None))


def withdraw(keeping: Keeping, study: Study, decision: int) -> Study:
    """Take a decision back, with its steps; the log keeps it.

    Raises:
        NoSuchStudyError: when there is no such standing decision in the study.
    """
    known = next((d for d in study.standing if d.id == decision), None)
    if known is None:
        raise NoSuchStudyError("There is no such decision, or it has changed: reload the page.")
    if known.choice in PLAIN:
        raise NothingToUndoError("This is changed where it was set, or undone in its turn.")
    steps = tuple(placed for placed in study.steps if placed.decision != decision)
    entry = NewDecision(
        stage=known.stage,
        about=known.about,
        choice=WITHDRAWN,
        sentence=shortened(f"Withdrawn: {known.sentence}"),
        withdraws=(decision,),
    )
    return keeping.append(study, entry, replace(study.decided, steps=steps))


def follow(
    keeping: Keeping,
    study: Study,
    statement: FollowUpStatement,
    table: Table,
    changed: ChangedWords | None,
) -> Study:
    """Put the follow-up statement; nothing is logged where nothing reads otherwise.

    Args:
        table: as the steps have left it.

    Raises:
        NoSuchColumnError: when it names a column, not named before, that the table does not have.
    """
    refuse_unknown_columns(statement, study.follow_up, table)
    if statement == study.follow_up:
        return study
    return keeping.append(
        study, _set(PREPARE, changed), replace(study.decided, follow_up=statement)
    )


def state(
    keeping: Keeping,
    study: Study,
    analysis: int | None,
    statement: StageStatement,
    table: Table,
    changed: ChangedWords | None,
) -> Study:
    """Put the statement of an analysis.

    A reference level that it asks for becomes a step in Prepare, so that all stages share it.

    Args:
        analysis: its id; None for the first of its stage.
        table: as the steps have left it.
        changed: what reads otherwise.

    Raises:
        NoSuchColumnError, NoSuchLevelError: when it names what was not named before, and is not there.
    """
    named = study.analysis(statement.stage, analysis)
    before = None if named.body is None else type(statement).read(named.body)
    refuse_unknown_names(statement, before, table)
    body = statement.without_references().model_dump(mode="json")
    with keeping.transaction() as inside:
        for column, level in asked_references(statement, table).items():
            step, instead_of = reference_step(table, study.steps, column, level)
            study = take_step(inside, study, "reference level", step, instead_of=instead_of)
        if named.body == body:
            return study
        id = named.id or inside.begin_analysis(study.id, statement.stage, begun=False)
        decided = study.decided.with_analysis(replace(named, id=id, body=body))
        return inside.append(study, _set(statement.stage, changed), decided)


def _set(stage: str, changed: ChangedWords | None) -> NewDecision:
    if changed is None:
        return NewDecision(stage=stage, about="statement", choice=SET, sentence="Statement changed")
    return NewDecision(
        stage=stage,
        about=changed.about,
        choice=SET,
        sentence=changed.sentence,
        before=changed.before,
        after=changed.after,
    )


def begin_analysis(
    keeping: Keeping, study: Study, stage: str, name: str, body: Mapping[str, Any] | None
) -> tuple[Study, int]:
    """Begin another analysis of a stage, after those that there are."""
    with keeping.transaction() as inside:
        if not study.of_stage(stage):  # the first one is there without anybody's decision
            inside.begin_analysis(study.id, stage, begun=False)
        made = inside.begin_analysis(study.id, stage, begun=True)
        position = 1 + max((a.position for a in study.of_stage(stage)), default=0)
        new = Analysis(id=made, stage=stage, name=name, position=position, body=body, begun=True)
        entry = NewDecision(
            stage=stage,
            about="analysis",
            choice=SET,
            sentence=shortened(f"Begun: {name or 'another'}"),
        )
        return inside.append(study, entry, study.decided.with_analysis(new)), made


def arrange_analysis(
    keeping: Keeping,
    study: Study,
    analysis: Analysis,
    name: str,
    position: int,
    needs: Mapping[str, int],
) -> Study:
    """Name an analysis, move it, or say what it follows from."""
    changed = replace(analysis, name=name, position=position, needs=dict(needs))
    entry = NewDecision(
        stage=analysis.stage,
        about="analysis",
        choice=ARRANGED,
        sentence="Arranged",
        before=analysis.name,
        after=name,
    )
    return keeping.append(study, entry, study.decided.with_analysis(changed))


def remove_analysis(keeping: Keeping, study: Study, analysis: Analysis) -> Study:
    """Delete an analysis; undoing brings it back."""
    assert analysis.id is not None
    left = tuple(a for a in study.decided.analyses if a.id != analysis.id)
    decided = replace(study.decided, analyses=left, gone=study.decided.gone | {analysis.id})
    entry = NewDecision(
        stage=analysis.stage,
        about="analysis",
        choice=ARRANGED,
        sentence="Deleted",
        before=analysis.name,
    )
    return keeping.append(study, entry, decided)


def rename(keeping: Keeping, study: Study, name: str) -> Study:
    """Give a study another name."""
    if name == study.name:
        return study
    entry = NewDecision(
        stage=PREPARE,
        about="study",
        choice=NAMED,
        sentence=shortened(f"Study renamed: {study.name} → {name}"),
        before=study.name,
        after=name,
    )
    return keeping.append(study, entry, replace(study.decided, name=name))


def name_level(
    keeping: Keeping, study: Study, table: Table, column: str, level: str, name: str
) -> Study:
    """Give a level of a category another name, as a step in Prepare, so that all stages share it.

    Raises:
        BrokenStepError: when there is no such level, or another is called that.
    """
    steps = naming_steps(table, column, level, name)
    last = study.steps[-1] if study.steps else None
    decision = NewDecision(
        stage=PREPARE,
        about="step",
        choice="name of a level",
        sentence=f"{column}: “{level}” is called “{name}”",
        before=shortened(level),
        after=shortened(name),
    )
    if last is not None and last.active and isinstance(last.step, RespellLevels):
        again = respelled_again(last.step, steps)
        if again is not None:
            return decide(keeping, study, decision, [again], last.id)
    return decide(keeping, study, decision, steps)
