"""How a study departs from the plan that was sealed."""

from collections.abc import Mapping, Sequence
from typing import Any

from hourglass.analysis.model.statement import KeptModel, ModelStatement
from hourglass.analysis.shared.stage import Stages
from hourglass.analysis.shared.statement import StageStatement
from hourglass.analysis.shared.typed import Typed
from hourglass.analysis.shared.wording import count
from hourglass.study.plans.document import PlannedAnalysis, StudyPlan, plan_of_study, sealed_plan
from hourglass.study.study import Study

SHOWN_ONLY = ("stage", "version", "kept", "beside")
"""Fields of statements that say what is shown or kept, not what is computed."""


class Departure(Typed):
    """Something that was planned one way and is another way now; blank where it is not there."""

    about: str
    planned: str
    now: str


def in_words(found: Sequence[Departure]) -> str:
    """How much departs."""
    if not found:
        return "Nothing departs from it."
    return f"{count(len(found), 'things')} {'departs' if len(found) == 1 else 'depart'} from it."


def departures(study: Study, stages: Stages) -> list[Departure]:
    """What departs from the sealed plan, in the order of the work; nothing where none was sealed.

    How figures look, and the words of the report, are no part of what was planned.
    """
    sealed = sealed_plan(study)
    if sealed is None:
        return []
    now = plan_of_study(study)
    kinds = {stage.name: (stage.title, stage.statement) for stage in stages}
    return [
        *_fields(
            "Follow-up",
            sealed.follow_up.model_dump(mode="json"),
            now.follow_up.model_dump(mode="json"),
        ),
        *_steps(sealed, now),
        *_analyses(sealed, now, kinds),
    ]


def _steps(sealed: StudyPlan, now: StudyPlan) -> list[Departure]:
    before = [p.step.named() for p in sealed.steps if p.active]
    after = [p.step.named() for p in now.steps if p.active]
    gone = [Departure(about="Step", planned=s, now="") for s in before if s not in after]
    new = [Departure(about="Step", planned="", now=s) for s in after if s not in before]
    if not gone and not new and before != after:
        return [Departure(about="Steps", planned="; ".join(before), now="; ".join(after))]
    return gone + new


def _analyses(
    sealed: StudyPlan, now: StudyPlan, kinds: Mapping[str, tuple[str, type[StageStatement]]]
) -> list[Departure]:
    found = []
    for name, (title, kind) in kinds.items():
        before = [a for a in sealed.analyses if a.stage == name]
        after = [a for a in now.analyses if a.stage == name]
        for k in range(max(len(before), len(after))):
            about = title if k == 0 else f"{title}, {k + 1}"
            if k >= len(before):
                found.append(Departure(about=about, planned="", now="made beside the plan"))
            elif k >= len(after):
                found.append(Departure(about=about, planned="planned", now="not made"))
            else:
                found += _statement(about, before[k], after[k], kind)
    return found


def _statement(
    about: str, before: PlannedAnalysis, after: PlannedAnalysis, kind: type[StageStatement]
) -> list[Departure]:
    """Fields that are stated otherwise; where the plan left all to the program, nothing departs."""
    if not before.statement:
        return []
    planned, made = kind.read(before.statement), kind.read(after.statement)
    found = _fields(about, planned.model_dump(mode="json"), made.model_dump(mode="json"))
    if isinstance(planned, ModelStatement) and isinstance(made, ModelStatement):
        found += _kept(about, planned.kept, made.kept)
    return found


def _kept(
    about: str, before: tuple[KeptModel, ...], after: tuple[KeptModel, ...]
) -> list[Departure]:
    now = [one.model for one in after]
    then = [one.model for one in before]
    return [
        *(
            Departure(about=f"{about} {one.letter}", planned="kept", now="no longer kept")
            for one in before
            if one.model not in now
        ),
        *(
            Departure(about=f"{about} {one.letter}", planned="", now=one.note or "kept beside")
            for one in after
            if one.model not in then
        ),
    ]


def _fields(about: str, before: Mapping[str, Any], after: Mapping[str, Any]) -> list[Departure]:
    return [
        Departure(
            about=f"{about}: {name.replace('_', ' ')}",
            planned=said(before.get(name)),
            now=said(after.get(name)),
        )
        for name in {**before, **after}
        if name not in SHOWN_ONLY and before.get(name) != after.get(name)
    ]


def said(value: Any) -> str:
    """A value of a statement as it could be written by hand."""
    if isinstance(value, list | tuple):
        return ", ".join(said(one) for one in value)
    if isinstance(value, Mapping):
        there = {name: one for name, one in value.items() if one not in (None, [], "")}
        return " ".join(f"{name} {said(one)}" for name, one in there.items())
    return "none" if value is None else str(value)
