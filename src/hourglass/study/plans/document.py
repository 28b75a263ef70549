"""A study as a plan: all that makes its results from a file, as one open, versioned document.

The document is JSON; docs/plan.schema.json states what it may hold. It can be written by hand, before there
are data: what is not stated is left as the program has it.
"""

import hashlib
import json
from collections.abc import Mapping
from datetime import date, datetime
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from hourglass.analysis.shared.figure.figure_settings import GroupStyle, ShownTrack
from hourglass.analysis.shared.statement import StageStatement
from hourglass.cohort.reading.recipe import Recipe
from hourglass.cohort.records.statement import MAX_TABLES, RecordTable
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.steps.apply import Step
from hourglass.cohort.steps.document import PlannedFile, PlannedStep
from hourglass.cohort.steps.earlier_names import with_earlier_names
from hourglass.cohort.steps.names import RenameColumn
from hourglass.cohort.words import cut
from hourglass.core.near_ties import NEAR_TIE
from hourglass.study.actions.action import PREPARE
from hourglass.study.actions.data import FileAttached
from hourglass.study.actions.plans import PlanApplied, PlanSealed
from hourglass.study.actions.turns import Done, Redone, Undone, Withdrawn
from hourglass.study.actions.upgrading import earlier_decision
from hourglass.study.history import Decision, reported
from hourglass.study.plans.mistakes import wrong_places
from hourglass.study.study import Study, TableInUse


class PlannedAnalysis(BaseModel):
    """An analysis of a stage: what it is called, and its statement."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    stage: Annotated[str, Field(max_length=60)]
    name: Annotated[str, Field(max_length=200)] = ""
    statement: dict[str, Any] = Field(default_factory=dict)


class PlannedDecision(BaseModel):
    """Something that was decided, and why.

    Attributes:
        stage, about, choice, sentence: what was decided, for whoever reads the document.
        action: what was decided, as data; a plan of an earlier program does not have it.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    stage: Annotated[str, Field(max_length=60)]
    about: Annotated[str, Field(max_length=400)]
    choice: Annotated[str, Field(max_length=60)]
    sentence: Annotated[str, Field(max_length=400)]
    reason: Annotated[str, Field(max_length=2000)] = ""
    action: Done | None = None

    @property
    def done(self) -> Done:
        """What was decided, as data."""
        return self.action or earlier_decision(self.stage, self.about, self.choice, self.sentence)

    @classmethod
    def of(cls, decision: Decision) -> "PlannedDecision":
        """A decision of a study."""
        action = decision.action
        assert not isinstance(action, Undone | Redone | Withdrawn)
        return cls(
            stage=decision.stage,
            about=cut(action.about, 400),
            choice=cut(str(getattr(action, "choice", action.kind)), 60),
            sentence=decision.sentence,
            reason=decision.reason,
            action=action,
        )


class Seal(BaseModel):
    """When a plan was sealed, and the hash of its content."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    at: datetime
    sha256: Annotated[str, Field(pattern="^[0-9a-f]{64}$")]


class PlannedTable(BaseModel):
    """A further table of a plan: how its file is read, its steps, and what is made of it.

    Attributes:
        made_on: the file that it was made on.
        reading: how the file is read; found from the file when absent.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    stated: RecordTable
    made_on: PlannedFile | None = None
    reading: Recipe | None = None
    steps: Annotated[tuple[Step, ...], Field(max_length=1000)] = ()


class StudyPlan(BaseModel):
    """All that makes a study's results from a file.

    Attributes:
        dated: the day that decisions are dated by where the plan is run.
        made_on: the file that it was made on; none where it was written before there were data.
        reading: how the file is read; found from the file when absent.
        tables: the further tables, whose files are given beside that of follow-up.
        analyses: those that are made; one without a statement has the first one of its stage.
        figures, tracks, group_styles: how figures are printed and shown, and how groups are drawn.
        sealed: when it was sealed; a plan that was changed since does not fit its seal.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    format: Literal["olden-hourglass plan"] = "olden-hourglass plan"
    version: Literal[1] = 1
    name: Annotated[str, Field(min_length=1, max_length=200)]
    dated: date
    made_on: PlannedFile | None = None
    reading: Recipe | None = None
    follow_up: FollowUpStatement = Field(default_factory=FollowUpStatement)
    steps: Annotated[tuple[PlannedStep, ...], Field(max_length=1000)] = ()
    tables: Annotated[tuple[PlannedTable, ...], Field(max_length=MAX_TABLES)] = ()
    decisions: Annotated[tuple[PlannedDecision, ...], Field(max_length=2000)] = ()
    analyses: Annotated[tuple[PlannedAnalysis, ...], Field(max_length=200)] = ()
    figures: dict[str, dict[str, Any]] = Field(default_factory=dict)
    tracks: dict[str, tuple[ShownTrack, ...]] = Field(default_factory=dict)
    group_styles: tuple[GroupStyle, ...] = ()
    sealed: Seal | None = None

    @model_validator(mode="before")
    @classmethod
    def upgraded(cls, given: Any) -> Any:
        """A plan of before ``group_styles`` had that name."""
        if not isinstance(given, dict) or "looks" not in given:
            return given
        return {("group_styles" if key == "looks" else key): one for key, one in given.items()}

    @property
    def sha256(self) -> str:
        """The hash of its content but the seal: of JSON with sorted keys and no spaces, UTF-8."""
        return _sha256(self._content())

    def _content(self) -> dict[str, Any]:
        body = self.model_dump(mode="json", exclude={"sealed"})
        # What plans could not state when the first were sealed counts only where it is stated.
        for decision in body["decisions"]:
            if decision["action"] is None:
                del decision["action"]
        for style in body["group_styles"]:
            if style["dash"] is None:
                del style["dash"]
        for track in (track for shown in body["tracks"].values() for track in shown):
            if not track["switched"]:
                del track["switched"]
        if not self.tables:
            del body["tables"]
        if self.follow_up.near_ties == NEAR_TIE:
            del body["follow_up"]["near_ties"]
        return body

    @property
    def seal_broken(self) -> bool:
        """Whether its content differs from what was sealed, under today's names or earlier ones."""
        if self.sealed is None or self.sealed.sha256 == self.sha256:
            return False
        earlier = with_earlier_names(self._content())
        earlier["looks"] = earlier.pop("group_styles")
        return self.sealed.sha256 != _sha256(earlier)

    def with_columns_renamed(self, names: Mapping[str, str]) -> "StudyPlan":
        """The same plan for a file whose columns have other names: the file's name to the plan's."""
        steps = [PlannedStep(step=RenameColumn(column=new, into=old)) for new, old in names.items()]
        return self.model_copy(update={"steps": (*steps, *self.steps)})

    def sealed_at(self, moment: datetime) -> "StudyPlan":
        """The same plan, sealed."""
        return self.model_copy(update={"sealed": Seal(at=moment, sha256=self.sha256)})


def _sha256(content: dict[str, Any]) -> str:
    text = json.dumps(content, sort_keys=True, separators=(",", ":"), ensure_ascii=False)
    return hashlib.sha256(text.encode()).hexdigest()


def plan_of_study(study: Study) -> StudyPlan:
    """What stands in a study, as a plan for another file."""
    reasons = {d.id: d.reason for d in study.decisions}
    decisions = reported(study.standing)
    place = {d.id: k for k, d in enumerate(decisions)}
    file, planned = study.file, _waiting(study)
    keys = [()] * len(study.steps) if planned is None else [p.rows_known_by for p in planned.steps]
    made_on = None if planned is None else planned.made_on
    reading = None if planned is None else planned.reading
    if file is not None:
        made_on = PlannedFile(name=file.name[:300], sha256=file.sha256)
        reading = file.recipe
    return StudyPlan(
        name=study.name,
        dated=study.decisions[-1].made_at.date(),
        made_on=made_on,
        reading=reading,
        follow_up=study.follow_up,
        steps=tuple(
            PlannedStep(
                step=p.step,
                active=p.active,
                reason=reasons.get(p.decision or 0, ""),
                decided=place.get(p.decision or 0),
                rows_known_by=known,
            )
            for p, known in zip(study.steps, keys, strict=True)
        ),
        tables=tuple(_planned_table(study, one) for one in study.tables),
        decisions=tuple(PlannedDecision.of(d) for d in decisions),
        analyses=tuple(
            PlannedAnalysis(stage=a.stage, name=a.name, statement=_versioned(a.body))
            for a in study.analyses
            if a.in_use and a.stage != PREPARE
        ),
        figures={view: dict(figure) for view, figure in study.snapshot.figures.items()},
        tracks=study.tracks,
        group_styles=study.group_styles,
    )


def _planned_table(study: Study, table: TableInUse) -> PlannedTable:
    extract = study.extract_of(table)
    if extract is None:
        return PlannedTable(stated=table.stated, reading=table.reading, steps=table.steps)
    return PlannedTable(
        stated=table.stated,
        made_on=PlannedFile(name=extract.name[:300], sha256=extract.sha256),
        reading=extract.recipe,
        steps=table.steps,
    )


def sealed_plan(study: Study) -> StudyPlan | None:
    """The plan of a study that was sealed, if any."""
    sealed = study.snapshot.sealed
    return None if sealed is None else StudyPlan.model_validate(sealed)


def sealing(study: Study) -> Decision | None:
    """The decision that put the sealed plan of a study in place, if one is sealed."""
    plan = sealed_plan(study)
    if plan is None or plan.sealed is None:
        return None
    return next(
        (
            d
            for d in study.standing
            if isinstance(d.action, PlanSealed | PlanApplied)
            and d.action.sha256 == plan.sealed.sha256
        ),
        None,
    )


def before_data(study: Study, decision: Decision) -> bool | None:
    """Whether something was decided before the study's data were read; None while it has none."""
    read = next((d for d in study.decisions if isinstance(d.action, FileAttached)), None)
    return None if read is None else decision.id < read.id


def _waiting(study: Study) -> StudyPlan | None:
    """The plan that waits for the study's file: its steps name rows of the file it was made on."""
    return None if study.file is not None else applied_plan(study)


def _versioned(body: Mapping[str, Any] | None) -> dict[str, Any]:
    """A statement with its version, which those of the first did not hold."""
    return {"version": 1, **body} if body else {}


def applied_plan(study: Study) -> StudyPlan | None:
    """The plan that was applied to a study last, if any."""
    planned = study.snapshot.planned
    return None if planned is None else StudyPlan.model_validate(planned)


def unusable_statements(plan: StudyPlan, kinds: Mapping[str, type[StageStatement]]) -> list[str]:
    """What is wrong with the statements of a plan, from the type of each stage's; empty if nothing is."""
    found = []
    for k, one in enumerate(plan.analyses):
        kind = kinds.get(one.stage)
        if kind is None:
            found.append(f"Analysis {k + 1}, stage: “{one.stage}” is none of {', '.join(kinds)}.")
            continue
        if one.statement:
            twice = sum(other.stage == one.stage for other in plan.analyses) > 1
            place = one.stage.capitalize() + (f" (analysis {k + 1})" if twice else "")
            found += _unusable(place, kind, one.statement)
    return found


def _unusable(place: str, kind: type[StageStatement], statement: Mapping[str, Any]) -> list[str]:
    """What is wrong with a statement."""
    today, version = kind.model_fields["version"].default, statement.get("version")
    if type(version) is not int or not 1 <= version <= today:
        return [f"{place}, version: state which version it is written in; today’s is {today}."]
    try:
        kind.read(statement)
    except ValidationError as why:
        return wrong_places(kind, why, place)
    except (AttributeError, KeyError, TypeError, ValueError):  # in bringing it up to date
        return [f"{place}: this is no statement of version {version}."]
    return []
