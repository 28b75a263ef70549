"""How a study departs from the plan that was sealed: what was decided is compared, not how it reads."""

import json
from collections.abc import Callable, Mapping, Sequence
from datetime import date
from difflib import SequenceMatcher
from functools import partial
from typing import Any, TypeAlias

from hourglass.analysis.model.statement import KeptModel, ModelStatement
from hourglass.analysis.prepare.field_words import FOLLOW_UP_WORDS
from hourglass.analysis.shared.field_words import NONE, FieldWords, Words
from hourglass.analysis.shared.formatting import count
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.stage import Stage, Stages
from hourglass.cohort.steps.apply import Step
from hourglass.cohort.words import grouped
from hourglass.study.actions.steps import step_words
from hourglass.study.actions.tables import reading_of
from hourglass.study.history import Decision
from hourglass.study.plans.decided_since import LastDecisions
from hourglass.study.plans.document import (
    PlannedAnalysis,
    StudyPlan,
    before_data,
    plan_of_study,
    sealed_plan,
    sealing,
)
from hourglass.study.results import Results
from hourglass.study.study import Study

SHOWN_ONLY = ("stage", "version", "kept", "beside")
"""Fields of statements that concern what is shown or kept, not what is computed."""


NO_WORDS: Words = {}
MAX_SHOWN = 40
"""Values of a list that are written out: rows, levels."""
StudySnapshot: TypeAlias = Callable[[str], Decision | None]
"""The decision that last set a field."""


class Departure(FrozenModel):
    """Something that was planned one way and is another way now; blank where it is not there.

    ``reason`` is why it was decided so, ``on`` the day; blank and None where no decision states. ``stage`` is
    the one whose statement departs; blank where something else does.
    """

    about: str
    planned: str
    now: str
    reason: str = ""
    on: date | None = None
    stage: str = ""

    def by(self, decision: Decision | None) -> "Departure":
        """The same, with the reason and the day of the decision that made it."""
        if decision is None:
            return self
        made = {"reason": decision.reason, "on": decision.made_at.date()}
        return self.model_copy(update=made)


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
    now, last = plan_of_study(study), LastDecisions(study)
    kinds = {stage.name: stage for stage in stages}
    return [
        *(_file(sealed, now, last) if _sealed_with_data(study) else ()),
        *_reading(sealed, now, last),
        *_fields(
            "Follow-up",
            sealed.follow_up.model_dump(mode="json"),
            now.follow_up.model_dump(mode="json"),
            last.of_follow_up,
            FOLLOW_UP_WORDS,
        ),
        *_steps(sealed, now, last),
        *_tables(sealed, now, last),
        *_analyses(sealed, now, kinds, last),
    ]


def departures_of(results: Results, study: Study) -> list[Departure]:
    """What departs from the sealed plan, the statements in effect among it where nobody wrote any."""
    if study.snapshot.sealed is None:
        return []
    return departures(results.stated(study), results.stages)


def _sealed_with_data(study: Study) -> bool:
    """Whether the study had a file when its plan was sealed; before, any file is the one waited for."""
    placed = sealing(study)
    return placed is not None and before_data(study, placed) is False


def _file(sealed: StudyPlan, now: StudyPlan, last: LastDecisions) -> list[Departure]:
    """Another file than the plan was made on; nothing where it was made on none."""
    if sealed.made_on is None or now.made_on is None:
        return []
    if sealed.made_on.sha256 == now.made_on.sha256:
        return []
    planned, used = (f"{one.name} ({one.sha256[:12]})" for one in (sealed.made_on, now.made_on))
    return [Departure(about="File", planned=planned, now=used).by(last.of_data())]


def _reading(sealed: StudyPlan, now: StudyPlan, last: LastDecisions) -> list[Departure]:
    """Another way of reading than was planned; nothing where none was."""
    if sealed.reading is None or now.reading is None:
        return []
    return _fields(
        "Reading",
        sealed.reading.model_dump(mode="json"),
        now.reading.model_dump(mode="json"),
        lambda _: last.of_data(),
    )


def _steps(sealed: StudyPlan, now: StudyPlan, last: LastDecisions) -> list[Departure]:
    """Steps that were edited, taken, removed or moved, in their order."""
    before = [p.step for p in sealed.steps if p.active]
    after = [p.step for p in now.steps if p.active]
    # In another file the numbers of rows are those of other rows: these were looked for by who they are.
    aside = {"rows", "row"} if _file(sealed, now, last) else set[str]()
    was, becomes = (
        [json.dumps(s.model_dump(mode="json", exclude=aside)) for s in steps]
        for steps in (before, after)
    )
    found, gone, new = list[Departure](), list[int](), list[int]()
    for kind, a, b, c, d in SequenceMatcher(None, was, becomes, autojunk=False).get_opcodes():
        if kind == "equal":
            continue
        edited = min(b - a, d - c)
        for k in range(edited):
            if before[a + k].kind == after[c + k].kind and was[a + k] not in becomes:
                edited_by = last.of_step(c + k)
                found += [d.by(edited_by) for d in _edited(before[a + k], after[c + k])]
            else:
                gone.append(a + k)
                new.append(c + k)
        gone += range(a + edited, b)
        new += range(c + edited, d)
    for j in gone:
        moved = next((k for k in new if becomes[k] == was[j]), None)
        if moved is None:
            gone_by = last.of_step_gone(before[j])
            found.append(Departure(about="Step", planned=step_words(before[j]), now="").by(gone_by))
        else:
            new.remove(moved)
            about = f"Step “{before[j].named()}”"
            planned, now_at = f"step {j + 1}", f"step {moved + 1}"
            if planned != now_at:
                made = Departure(about=about, planned=planned, now=now_at)
                found.append(made.by(last.of_settings()))
    return found + [
        Departure(about="Step", planned="", now=step_words(after[k])).by(last.of_step(k))
        for k in new
    ]


def _tables(sealed: StudyPlan, now: StudyPlan, last: LastDecisions) -> list[Departure]:
    """Further tables that were added, removed, or are read otherwise."""
    planned, used = (_tables_in_words(plan) for plan in (sealed, now))
    names = dict.fromkeys([*planned, *used])
    return [
        Departure(about=f"Table {name}", planned=was, now=becomes).by(last.of_table(name))
        for name in names
        if (was := planned.get(name, "")) != (becomes := used.get(name, ""))
    ]


def _tables_in_words(plan: StudyPlan) -> dict[str, str]:
    """How each further table is read, with its steps."""
    found = {}
    for one in plan.tables:
        steps = "".join(f"; {step.named()}" for step in one.steps)
        found[one.stated.name] = f"{one.stated.role} {reading_of(one.stated)}{steps}"
    return found


def _edited(before: Step, after: Step) -> list[Departure]:
    """A step that was planned otherwise; what its name does not show is shown field by field."""
    if before.named() != after.named():
        return [Departure(about="Step", planned=step_words(before), now=step_words(after))]
    fields = before.model_dump(mode="json"), after.model_dump(mode="json")
    return _fields(f"Step “{before.named()}”", *fields, lambda _: None)


def _analyses(
    sealed: StudyPlan, now: StudyPlan, kinds: Mapping[str, Stage], last: LastDecisions
) -> list[Departure]:
    found = list[Departure]()
    for name, stage in kinds.items():
        begun = len(found)
        before = [a for a in sealed.analyses if a.stage == name]
        after = [a for a in now.analyses if a.stage == name]
        for k in range(max(len(before), len(after))):
            about = stage.title if k == 0 else f"{stage.title}, {k + 1}"
            if k >= len(before):
                made = Departure(about=about, planned="", now="made beside the plan")
                found.append(made.by(last.of_stage(name)))
            elif k >= len(after):
                made = Departure(about=about, planned="planned", now="not made")
                found.append(made.by(last.of_stage(name)))
            else:
                snapshot = partial(last.of_field, name)
                found += _statement(about, before[k], after[k], stage, snapshot)
        found[begun:] = [d.model_copy(update={"stage": name}) for d in found[begun:]]
    return found


def _statement(
    about: str,
    before: PlannedAnalysis,
    after: PlannedAnalysis,
    stage: Stage,
    snapshot: StudySnapshot,
) -> list[Departure]:
    """Fields that are stated otherwise; where the plan left all to the program, nothing departs."""
    if not before.statement:
        return []
    kind = stage.statement
    planned, made = kind.read(before.statement), kind.read(after.statement)
    bodies = planned.model_dump(mode="json"), made.model_dump(mode="json")
    found = _fields(about, *bodies, snapshot, stage.field_words)
    if isinstance(planned, ModelStatement) and isinstance(made, ModelStatement):
        found += [d.by(snapshot("kept")) for d in _kept(about, planned.kept, made.kept)]
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


def _fields(
    about: str,
    before: Mapping[str, Any],
    after: Mapping[str, Any],
    snapshot: StudySnapshot,
    words: Words = NO_WORDS,
) -> list[Departure]:
    found = []
    for name in {**before, **after}:
        if name in SHOWN_ONLY or before.get(name) == after.get(name):
            continue
        own = words.get(name) or FieldWords(name.replace("_", " "), value_in_words)
        planned, now = (own.value(body.get(name)) for body in (before, after))
        if not planned and not now:
            continue  # it follows from other fields
        title = own.title[:1].lower() + own.title[1:]
        made = Departure(about=f"{about}: {title}", planned=planned or NONE, now=now or NONE)
        found.append(made.by(snapshot(name)))
    return found


def value_in_words(value: Any) -> str:
    """A value of a statement as it could be written by hand."""
    if isinstance(value, list | tuple):
        shown = ", ".join(value_in_words(one) for one in value[:MAX_SHOWN])
        left = len(value) - MAX_SHOWN
        return f"{shown} and {grouped(left)} more" if left > 0 else shown
    if isinstance(value, Mapping):
        there = {name: one for name, one in value.items() if one not in (None, [], "")}
        return " ".join(f"{name} {value_in_words(one)}" for name, one in there.items())
    return NONE if value is None else str(value)
