"""A study as a plan: all that makes its results from a file, as one open, versioned document.

The document is JSON; docs/plan.schema.json says what it may hold. It can be written by hand, before there
are data: what is not stated is left as the program has it.
"""

from collections.abc import Mapping
from datetime import date
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from hourglass.analysis.shared.changed_words import shortened
from hourglass.analysis.shared.figure.arranging import GroupLook
from hourglass.analysis.shared.statement import StageStatement
from hourglass.cohort.reading.recipe import Recipe
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.plan import PlacedStep, PlannedStep
from hourglass.study.history import ARRANGED, NewDecision, reported
from hourglass.study.keeping import Keeping, NewFile
from hourglass.study.study import PREPARE, Analysis, Decided, Study


class PlannedAnalysis(BaseModel):
    """An analysis of a stage: what it is called, and its statement."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    stage: Annotated[str, Field(max_length=60)]
    name: Annotated[str, Field(max_length=200)] = ""
    statement: dict[str, Any] = Field(default_factory=dict)


class PlannedDecision(BaseModel):
    """Something that was decided, and why."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    stage: Annotated[str, Field(max_length=60)]
    about: Annotated[str, Field(max_length=400)]
    choice: Annotated[str, Field(max_length=60)]
    sentence: Annotated[str, Field(max_length=400)]
    reason: Annotated[str, Field(max_length=2000)] = ""


class StudyPlan(BaseModel):
    """All that makes a study's results from a file.

    Attributes:
        dated: the day that decisions and files are dated by where the plan is run.
        reading: how the file is read; found from the file when absent.
        analyses: those that are made; one without a statement says what its stage says at first.
        figures, tracks, looks: how figures are printed and shown, and how groups are drawn.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    format: Literal["olden-hourglass plan"] = "olden-hourglass plan"
    version: Literal[1] = 1
    name: Annotated[str, Field(min_length=1, max_length=200)]
    dated: date
    reading: Recipe | None = None
    follow_up: FollowUpStatement = Field(default_factory=FollowUpStatement)
    steps: Annotated[tuple[PlannedStep, ...], Field(max_length=1000)] = ()
    decisions: Annotated[tuple[PlannedDecision, ...], Field(max_length=2000)] = ()
    analyses: Annotated[tuple[PlannedAnalysis, ...], Field(max_length=200)] = ()
    figures: dict[str, dict[str, Any]] = Field(default_factory=dict)
    tracks: dict[str, list[dict[str, Any]]] = Field(default_factory=dict)
    looks: tuple[GroupLook, ...] = ()


def plan_of_study(study: Study) -> StudyPlan:
    """What stands in a study, as a plan for another file."""
    reasons = {d.id: d.reason for d in study.decisions}
    file = study.file
    return StudyPlan(
        name=study.name,
        dated=study.decisions[-1].made_at.date(),
        reading=None if file is None else file.recipe,
        follow_up=study.follow_up,
        steps=tuple(
            PlannedStep(step=p.step, active=p.active, reason=reasons.get(p.decision or 0, ""))
            for p in study.steps
        ),
        decisions=tuple(
            PlannedDecision(
                stage=d.stage, about=d.about, choice=d.choice, sentence=d.sentence, reason=d.reason
            )
            for d in reported(study.standing, PREPARE)
        ),
        analyses=tuple(
            PlannedAnalysis(stage=a.stage, name=a.name, statement=dict(a.body or {}))
            for a in study.analyses
            if a.asked and a.stage != PREPARE
        ),
        figures={view: dict(figure) for view, figure in study.decided.figures.items()},
        tracks={view: [dict(t) for t in tracks] for view, tracks in study.decided.tracks.items()},
        looks=study.looks,
    )


def unusable_statements(plan: StudyPlan, kinds: Mapping[str, type[StageStatement]]) -> list[str]:
    """What is wrong with the statements of a plan, from the type of each stage's; empty if nothing is."""
    found = []
    for k, one in enumerate(plan.analyses):
        kind = kinds.get(one.stage)
        if kind is None:
            found.append(f"analyses.{k}.stage: “{one.stage}” is none of {', '.join(kinds)}")
            continue
        try:
            kind.read(one.statement)
        except ValidationError as why:
            found += [
                ".".join(["analyses", str(k), "statement", *map(str, error["loc"])])
                + f": {error['msg']}"
                for error in why.errors()
            ]
    return found


def study_by_plan(keeping: Keeping, plan: StudyPlan, file: NewFile) -> Study:
    """Begin a study with a file, in which everything is decided as a plan says.

    Steps that do not fit the file say so where they are carried out.
    """
    with keeping.transaction() as inside:
        study = inside.load(inside.create(plan.name))
        export = inside.add_export(study.id, file, waiting=False)
        decided = Decided(
            name=plan.name,
            export=export,
            follow_up=plan.follow_up,
            steps=tuple(PlacedStep(step=p.step, active=p.active) for p in plan.steps),
            analyses=_analyses(inside, study, plan),
            figures=plan.figures,
            tracks=plan.tracks,
            looks={look.group: look.model_dump(mode="json") for look in plan.looks},
        )
        entry = NewDecision(PREPARE, "plan", ARRANGED, shortened(f"By the plan “{plan.name}”"))
        study = inside.append(study, entry, decided)
        for one in plan.decisions:
            made = NewDecision(one.stage, one.about, one.choice, one.sentence, one.reason)
            study = inside.append(study, made, study.decided)
    return study


def _analyses(keeping: Keeping, study: Study, plan: StudyPlan) -> tuple[Analysis, ...]:
    """The analyses of a plan, each with its place; one that states nothing has been opened."""
    made, stages = [], set[str]()
    for place, one in enumerate(plan.analyses):
        another = one.stage in stages
        stages.add(one.stage)
        id = keeping.begin_analysis(study.id, one.stage, begun=another)
        keeping.open_analysis(id)
        if one.statement or another or one.name:
            body = one.statement or None
            made.append(Analysis(id, one.stage, one.name, place, body, begun=another))
    return tuple(made)
