"""Commands on what the stages state, and on the analyses that state it."""

from collections.abc import Iterator, Mapping
from dataclasses import replace
from typing import Any, TypeVar

from hourglass.analysis.references import reference_step, stated_references
from hourglass.analysis.shared.statement import StageStatement
from hourglass.analysis.unknown_names import refuse_unknown_names
from hourglass.cohort.table import Table
from hourglass.core.errors import UserError
from hourglass.study.actions.action import PREPARE
from hourglass.study.actions.statements import (
    AnalysisArranged,
    AnalysisBegun,
    AnalysisDeleted,
    AnalysisPlace,
    Answered,
    StatementSet,
    statement_action,
)
from hourglass.study.commands.steps import decide, put_step
from hourglass.study.commands.tables import state_table, with_reference
from hourglass.study.history import NewDecision
from hourglass.study.repository import StudyRepository
from hourglass.study.study import Analysis, Study, StudySnapshot
from hourglass.study.view_keys import view_key
from hourglass.study.views import letters

V = TypeVar("V")


def state(
    repository: StudyRepository,
    study: Study,
    analysis: int | None,
    statement: StageStatement,
    table: Table,
    in_effect: StageStatement | None = None,
) -> Study:
    """Put the statement of an analysis.

    A reference level that it requests becomes a step in Prepare, so that all stages share it.

    Args:
        analysis: its id; None for the first of its stage.
        table: as the steps have left it.
        in_effect: what holds where nobody has written a statement yet.

    Raises:
        NoSuchColumnError, NoSuchLevelError: when it names what was not named before, and is not there.
    """
    named = study.analysis(statement.stage, analysis)
    before = in_effect if named.body is None else type(statement).read(named.body)
    refuse_unknown_names(statement, None if named.body is None else before, table)
    body = _body(statement.informed_by(_earlier(study, statement.stage)))
    with repository.transaction() as inside:
        for column, level in stated_references(statement, table).items():
            made = with_reference(study, column, level)
            if made is not None:
                study = state_table(inside, study, made)
                continue
            step, instead_of = reference_step(table, study.steps, column, level)
            study = put_step(inside, study, step, instead_of=instead_of)
        id = named.id or inside.begin_analysis(study.id, statement.stage, begun=False)
        was = {} if before is None else _body(before)
        action = statement_action(statement.stage, id, statement.version, was, body)
        if named.body == body:
            return study.left_as_it_is(action)
        snapshot = study.snapshot.with_analysis(replace(named, id=id, body=body))
        return inside.append(study, NewDecision(action=action), snapshot)


def _earlier(study: Study, stage: str) -> Iterator[dict[str, Any]]:
    """What the analyses of a stage have stated so far, as JSON, undone statements among them."""
    now: dict[int | None, dict[str, Any]] = {
        a.id: dict(a.body or {}) for a in study.of_stage(stage)
    }
    for decision in study.decisions:
        action = decision.action
        if isinstance(action, StatementSet) and action.stage == stage:
            was = now.get(action.analysis, {})
            now[action.analysis] = {**was, **action.after}
            yield {**was, **action.before}
            yield now[action.analysis]


def _body(statement: StageStatement) -> dict[str, Any]:
    return statement.without_references().model_dump(mode="json")


def begin_analysis(
    repository: StudyRepository,
    study: Study,
    stage: str,
    name: str,
    body: Mapping[str, Any] | None,
    like: int | None = None,
) -> tuple[Study, int]:
    """Begin another analysis of a stage, after those that there are.

    Args:
        body: what it states; None for what the stage states at first.
        like: the id of one whose tracks and printed figure it has, too.
    """
    with repository.transaction() as inside:
        if not study.of_stage(stage):  # the first one is there without anybody's decision
            inside.begin_analysis(study.id, stage, begun=False)
        made = inside.begin_analysis(study.id, stage, begun=True)
        position = 1 + max((a.position for a in study.of_stage(stage)), default=0)
        new = Analysis(id=made, stage=stage, name=name, position=position, body=body, begun=True)
        snapshot = study.snapshot.with_analysis(new)
        if like is not None:
            letter = letters(inside.load(study.id), stage)
            snapshot = _drawn_alike(snapshot, *(view_key(stage, letter[k]) for k in (like, made)))
        action = AnalysisBegun(stage=stage, analysis=made, name=name)
        return inside.append(study, NewDecision(action=action), snapshot), made


def _drawn_alike(snapshot: StudySnapshot, view: str, copy: str) -> StudySnapshot:
    """What is decided, with the tracks and the printed figure of one view for another, too."""

    def too(kept: Mapping[str, V]) -> dict[str, V]:
        return {**kept, **({copy: kept[view]} if view in kept else {})}

    return replace(snapshot, tracks=too(snapshot.tracks), figures=too(snapshot.figures))


def arrange_analysis(
    repository: StudyRepository,
    study: Study,
    analysis: int,
    name: str,
    position: int,
    needs: Mapping[str, int],
) -> Study:
    """Name an analysis, move it, or state what it follows from.

    Raises:
        UserError: when it is not there; NoSuchAnalysisError: when one that it follows from is not.
    """
    was = _of_study(study, analysis)
    for stage, needed in needs.items():
        study.analysis(stage, needed)
    changed = replace(was, name=name, position=position, needs=dict(needs))
    action = AnalysisArranged(
        stage=was.stage,
        analysis=was.id,
        before=AnalysisPlace(name=was.name, position=was.position, needs=dict(was.needs)),
        after=AnalysisPlace(name=name, position=position, needs=dict(needs)),
    )
    return repository.append(
        study, NewDecision(action=action), study.snapshot.with_analysis(changed)
    )


def remove_analysis(repository: StudyRepository, study: Study, analysis: int) -> Study:
    """Delete an analysis; undoing brings it back.

    Raises:
        UserError: when it is not there, or the only one of its stage.
    """
    was = _of_study(study, analysis)
    if len(study.of_stage(was.stage)) == 1:
        raise UserError("It is the only one of its stage.", "only-analysis", "analysis")
    left = tuple(a for a in study.snapshot.analyses if a.id != analysis)
    snapshot = replace(study.snapshot, analyses=left, gone=study.snapshot.gone | {analysis})
    action = AnalysisDeleted(stage=was.stage, analysis=analysis, name=was.name)
    return repository.append(study, NewDecision(action=action), snapshot)


def _of_study(study: Study, analysis: int) -> Analysis:
    found = next((a for a in study.analyses if a.id == analysis), None)
    if found is None or found.stage == PREPARE:
        raise UserError("It is gone: reload.", "no-such-analysis", "analysis")
    return found


def answer(repository: StudyRepository, study: Study, action: Answered, reason: str) -> Study:
    """Accept a caution, or leave a check as it is."""
    return decide(repository, study, action, reason=reason)
