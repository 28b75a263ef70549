"""Planning a study: a plan is applied to it, or sealed as it stands."""

from collections.abc import Iterable, Sequence
from dataclasses import replace
from datetime import UTC, datetime

from hourglass.cohort.steps.document import PlacedStep, PlannedStep, StepsDocument
from hourglass.core.errors import HourglassError
from hourglass.study.actions.plans import PlanApplied, PlanSealed, StepsApplied
from hourglass.study.actions.steps import StepTaken
from hourglass.study.commands.files import attach_file
from hourglass.study.commands.steps import steps_left
from hourglass.study.history import NewDecision
from hourglass.study.plans.document import (
    PlannedAnalysis,
    PlannedDecision,
    PlannedTable,
    StudyPlan,
    plan_of_study,
)
from hourglass.study.plans.steps import StepForFile
from hourglass.study.repository import NewFile, StudyRepository
from hourglass.study.study import Analysis, Study, StudySnapshot, TableInUse


class BrokenSealError(HourglassError):
    """A plan was changed after it had been sealed."""

    def __init__(self) -> None:
        super().__init__(
            "The plan was changed after it had been sealed: its SHA-256 is not the one that was sealed. "
            "Take the plan as it was, or leave “sealed” out."
        )


def study_by_plan(
    repository: StudyRepository, plan: StudyPlan, file: NewFile, steps: Sequence[StepForFile]
) -> Study:
    """Begin a study with a file, in which everything is decided as a plan states.

    Steps that do not fit the file carry a message where they are carried out.

    Args:
        steps: of the plan, as they are placed for the file.

    Raises:
        BrokenSealError: when the plan was changed after it had been sealed.
    """
    with repository.transaction() as inside:
        study = inside.load(inside.create(plan.name))
        extract = inside.add_extract(study.id, file, waiting=False)
        study = replace(study, snapshot=replace(study.snapshot, extract=extract))
        return _apply(inside, study, plan, steps)


def apply_plan(
    repository: StudyRepository, study: Study, plan: StudyPlan, steps: Sequence[StepForFile]
) -> Study:
    """Put a plan in the place of everything that was decided in a study, but its name and file.

    Args:
        steps: of the plan, as they are placed for the study's file.

    Raises:
        BrokenSealError: when the plan was changed after it had been sealed.
    """
    with repository.transaction() as inside:
        return _apply(inside, study, plan, steps)


def attach_as_planned(
    repository: StudyRepository, study: Study, file: NewFile, steps: Sequence[StepForFile] | None
) -> Study:
    """Give a study its file: by the plan in place, if one was applied before there was a file.

    Args:
        steps: of that plan, as they are placed for the file; None without one.

    Raises:
        FileAlreadyReadError: when steps or statements depend on the file that is there.
    """
    if steps is None:
        return attach_file(repository, study, file)
    fitted = tuple(
        _fitted(there, one.placed) for there, one in zip(study.steps, steps, strict=True)
    )
    return attach_file(repository, study, file, replace(study.snapshot, steps=fitted))


def _fitted(there: PlacedStep, placed: PlacedStep) -> PlacedStep:
    """A step as it fits a file, still that of the decision that took it."""
    if placed.step == there.step:
        return there.model_copy(update={"active": placed.active})
    return placed.model_copy(update={"decision": there.decision})


def seal_plan(repository: StudyRepository, study: Study, plan: StudyPlan | None = None) -> Study:
    """Seal the plan of a study as it stands now; what is decided otherwise later departs from it.

    Args:
        plan: of the study, with the statements in effect and the identifiers of the rows that it names.
    """
    sealed = (plan or plan_of_study(study)).sealed_at(datetime.now(UTC).replace(microsecond=0))
    seal = sealed.sealed
    assert seal is not None
    entry = NewDecision(action=PlanSealed(sha256=seal.sha256))
    return repository.append(
        study, entry, replace(study.snapshot, sealed=sealed.model_dump(mode="json"))
    )


def _apply(
    repository: StudyRepository, study: Study, plan: StudyPlan, fitted: Sequence[StepForFile]
) -> Study:
    if plan.seal_broken:
        raise BrokenSealError
    steps = tuple(one.placed for one in fitted)
    analyses, gone = _analyses(repository, study, plan.analyses)
    document = plan.model_dump(mode="json")
    snapshot = StudySnapshot(
        name=study.name,
        extract=study.snapshot.extract,
        tables=tuple(_table(study, one) for one in plan.tables),
        follow_up=plan.follow_up,
        steps=steps,
        analyses=analyses,
        gone=study.snapshot.gone | gone,
        figures=plan.figures,
        tracks={
            view: [track.model_dump(mode="json") for track in shown]
            for view, shown in plan.tracks.items()
        },
        group_styles={style.group: style.model_dump(mode="json") for style in plan.group_styles},
        planned=document,
        sealed=study.snapshot.sealed if plan.sealed is None else document,
    )
    sealed = "" if plan.sealed is None else plan.sealed.sha256
    entry = NewDecision(
        action=PlanApplied(name=plan.name, sha256=sealed), withdraws=steps_left(study, steps)
    )
    study = repository.append(study, entry, snapshot)
    return _decided(repository, study, plan.steps, plan.decisions)


def _table(study: Study, planned: PlannedTable) -> TableInUse:
    """A planned table, of the data extract that the study has under its name, if any."""
    name = planned.stated.name
    known = next((one for one in study.tables if one.stated.name == name), None)
    return TableInUse(
        extract=None if known is None else known.extract,
        stated=planned.stated,
        steps=planned.steps,
        reading=planned.reading,
    )


def _decided(
    repository: StudyRepository,
    study: Study,
    planned: Sequence[PlannedStep],
    decisions: Sequence[PlannedDecision],
) -> Study:
    """Log the decisions of a plan that was applied, each with the steps that it took, so that it can be
    withdrawn with them; a step with a reason of its own is a decision too.
    """
    there = [d.action for d in study.standing]
    made = [
        (NewDecision(action=d.done, reason=d.reason), _places(planned, k))
        for k, d in enumerate(decisions)
    ]
    made += [
        (NewDecision(action=StepTaken(step=p.step), reason=p.reason), [k])
        for k, p in enumerate(planned)
        if p.reason and p.decided is None
    ]
    for decision, places in made:
        if places or decision.action not in there:
            steps = tuple(
                s.model_copy(update={"id": 0, "decision": None}) if k in places else s
                for k, s in enumerate(study.steps)
            )
            study = repository.append(study, decision, replace(study.snapshot, steps=steps))
    return study


def _places(planned: Sequence[PlannedStep], decision: int) -> list[int]:
    return [k for k, step in enumerate(planned) if step.decided == decision]


def steps_document_of(plan: StudyPlan) -> StepsDocument:
    """The follow-up statement and the steps of a plan, as a document that can be applied to another file."""
    steps = tuple(step.model_copy(update={"decided": None}) for step in plan.steps)
    return StepsDocument(made_on=plan.made_on, follow_up=plan.follow_up, steps=steps)


def apply_steps_document(
    repository: StudyRepository,
    study: Study,
    document: StepsDocument,
    fitted: Sequence[StepForFile],
) -> Study:
    """Put a document's steps and follow-up statement in the place of those that there are.

    Args:
        fitted: those steps, as they are placed for the study's file.
    """
    new = tuple(one.placed for one in fitted)
    lost = sum(bool(one.why) for one in fitted)
    action = StepsApplied(steps=len(new), lost=lost)
    entry = NewDecision(action=action, withdraws=steps_left(study, new))
    snapshot = replace(study.snapshot, steps=new, follow_up=document.follow_up)
    with repository.transaction() as inside:
        return _decided(inside, inside.append(study, entry, snapshot), document.steps, ())


def _analyses(
    repository: StudyRepository, study: Study, planned: Iterable[PlannedAnalysis]
) -> tuple[tuple[Analysis, ...], frozenset[int]]:
    """The analyses of a plan in the place of those that there are, and which of these are deleted.

    One that states nothing has been opened.
    """
    there = {stage: list(study.of_stage(stage)) for stage in {a.stage for a in study.analyses}}
    made = list[Analysis]()
    for place, one in enumerate(planned):
        first = not any(a.stage == one.stage for a in made)
        known = there.get(one.stage, [])
        old = known.pop(0) if known else None
        id = old.id if old is not None else None
        if id is None:
            id = repository.begin_analysis(study.id, one.stage, begun=not first)
        repository.open_analysis(id)
        begun = not first if old is None else old.begun
        made.append(
            Analysis(
                id=id,
                stage=one.stage,
                name=one.name,
                position=place,
                body=one.statement or None,
                begun=begun,
            )
        )
    left = [a for rest in there.values() for a in rest if a.begun and a.id is not None]
    kept = tuple(a for a in made if a.body or a.name or a.begun)
    return kept, frozenset(a.id for a in left if a.id is not None)
