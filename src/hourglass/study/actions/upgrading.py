"""Entries of a log as earlier programs kept them, as today's actions.

What was decided is found from all that was decided before and after the entry; its sentence is only kept.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from hourglass.analysis.shared.statement import keys_of_the_field
from hourglass.cohort.steps.document import PlacedStep
from hourglass.cohort.steps.levels import RespellLevels
from hourglass.study.actions.action import PREPARE
from hourglass.study.actions.data import ExtractTaken, FileAttached, FileReadOtherwise
from hourglass.study.actions.figures import FigureSet, GroupStyleSet, TracksShown
from hourglass.study.actions.follow_up import (
    KEEP,
    FindingDecided,
    FollowUpSet,
    LayoutConfirmed,
    fields_set,
)
from hourglass.study.actions.plans import PlanApplied, PlanSealed, StepsApplied
from hourglass.study.actions.statements import (
    AnalysisArranged,
    AnalysisBegun,
    AnalysisDeleted,
    AnalysisPlace,
    Answered,
    StatementsGiven,
    statement_action,
)
from hourglass.study.actions.steps import LevelNamed, StepEdited, StepTaken, arranged
from hourglass.study.actions.turns import (
    Done,
    Earlier,
    Redone,
    StudyBegun,
    StudyRenamed,
    Undone,
    Withdrawn,
)
from hourglass.study.actions.union import Action
from hourglass.study.study import Analysis, Extract, StudySnapshot

SETTINGS = frozenset(
    ("begun", "set", "read", "arranged", "named", "sealed", "withdrawn", "undone", "redone")
)
"""What was done, in the word that was kept, where it could not be taken back on its own."""
STEP, LEVEL, LAYOUT, PLAN = "step", "name of a level", "layout", "plan"


@dataclass(frozen=True, slots=True, kw_only=True)
class EarlierEntry:
    """An entry of the log as it was kept before actions were.

    Attributes:
        stage, about, choice: where it was made, what it is about and what was done, as keys.
        sentence: its words, which are only kept; ``before``, ``after``: how what was changed read.
        undoes, redoes, withdraws: the entries that it concerns.
    """

    stage: str
    about: str
    choice: str
    sentence: str = ""
    before: str = ""
    after: str = ""
    undoes: int | None = None
    redoes: int | None = None
    withdraws: tuple[int, ...] = ()


def earlier_decision(stage: str, about: str, choice: str, sentence: str) -> Done:
    """A decision that stands on its own, of which only these are known."""
    if stage != PREPARE:
        return Answered(stage=stage, subject=about, choice=choice, words=sentence)
    if about == LAYOUT:
        return LayoutConfirmed(layout=choice, label="")
    if choice == KEEP:
        return _finding(about, choice, sentence, {})
    alone = choice not in SETTINGS
    return Earlier(stage=stage, subject=about, choice=choice, words=sentence, alone=alone)


def unknown_action(old: EarlierEntry) -> Done:
    """An entry of which what was decided then is not kept: its keys and words are all there is."""
    if old.choice in SETTINGS:
        return Earlier(
            stage=old.stage, subject=old.about, choice=old.choice, words=old.sentence, alone=False
        )
    return earlier_decision(old.stage, old.about, old.choice, old.sentence)


def action_of(
    old: EarlierEntry,
    was: StudySnapshot | None,
    now: StudySnapshot,
    extracts: Mapping[int, Extract],
    known: Mapping[int, Action],
) -> Action:
    """What an entry did.

    Args:
        was, now: all that was decided before and after it; None before the first.
        extracts: those of the study, by id.
        known: the actions of the entries before, by id.
    """
    turned = _turn(old, known)
    if turned is not None:
        return turned
    if was is None or old.choice == "begun":
        return StudyBegun(name=now.name, earlier=now.extract is not None)
    found = _alone(old, was, now) if old.choice not in SETTINGS else _setting(was, now, extracts)
    if found is not None:
        return found
    return unknown_action(old)


def _turn(old: EarlierEntry, known: Mapping[int, Action]) -> Action | None:
    """What was undone, redone or withdrawn."""
    of = old.undoes or old.redoes or next(iter(old.withdraws), 0)
    action = known.get(of)
    if action is None or isinstance(action, Undone | Redone):
        return None
    if old.undoes is not None:
        return Undone(of=action, decision=of)
    if old.redoes is not None:
        return Redone(of=action, decision=of)
    if old.choice == "withdrawn" and not isinstance(action, Withdrawn):
        return Withdrawn(of=action, decision=of)
    return None


def _alone(old: EarlierEntry, was: StudySnapshot, now: StudySnapshot) -> Done | None:
    """A decision that could be taken back on its own."""
    if old.stage != PREPARE:
        return None
    set_of = fields_set(was.follow_up, now.follow_up)
    if old.about == LAYOUT:
        return LayoutConfirmed(layout=old.choice, label="", **set_of)
    if old.about == PLAN:
        return StepsApplied(steps=len(now.steps))
    if old.about == STEP:
        return _step(old, was.steps, now.steps, set_of)
    return _finding(old.about, old.choice, old.sentence, set_of)


def _finding(
    about: str, choice: str, sentence: str, set_of: Mapping[str, dict[str, Any]]
) -> FindingDecided:
    """What was decided about a finding; of one that was kept, the number of its rows stands in its key."""
    key, _, rows = about.rpartition("|")
    if choice == KEEP and rows.isdigit():  # an earlier one was kept without the number
        return FindingDecided(finding=key, choice=choice, rows=int(rows), title=sentence, **set_of)
    return FindingDecided(finding=about, choice=choice, title=sentence, **set_of)


def _step(
    old: EarlierEntry,
    was: Sequence[PlacedStep],
    now: Sequence[PlacedStep],
    set_of: Mapping[str, dict[str, Any]],
) -> Done | None:
    there = {placed.id for placed in was}
    stay = {placed.id for placed in now}
    new = [placed for placed in now if placed.id not in there]
    gone = [placed for placed in was if placed.id not in stay]
    if old.choice == LEVEL and new and isinstance(new[-1].step, RespellLevels):
        return LevelNamed(column=new[-1].step.column, before=old.before, after=old.after)
    if len(new) != 1:
        return None
    if gone and old.choice != "taken":
        return StepEdited(step_id=gone[0].id, was=gone[0].step, step=new[0].step)
    return StepTaken(step=new[0].step, **set_of)


def _setting(
    was: StudySnapshot, now: StudySnapshot, extracts: Mapping[int, Extract]
) -> Done | None:
    """What is otherwise, where it could not be taken back on its own."""
    if was.name != now.name:
        return StudyRenamed(before=was.name, after=now.name)
    if was.sealed != now.sealed and was.planned == now.planned and now.sealed is not None:
        return PlanSealed(sha256=now.sealed["sealed"]["sha256"])
    if was.planned != now.planned and now.planned is not None:
        seal = now.planned.get("sealed") or {}
        return PlanApplied(name=now.planned["name"], sha256=seal.get("sha256", ""))
    if was.extract != now.extract and now.extract is not None:
        return _extract(extracts.get(was.extract or 0), extracts.get(now.extract))
    if was.follow_up != now.follow_up:
        return FollowUpSet(**fields_set(was.follow_up, now.follow_up))
    if was.steps != now.steps:
        return arranged(was.steps, now.steps)
    return _analyses(was, now) or _shown(was, now)


def _extract(before: Extract | None, after: Extract | None) -> Done | None:
    if after is None:
        return None
    if before is None:
        return FileAttached(name=after.name, sha256=after.sha256)
    if before.sha256 == after.sha256:
        return FileReadOtherwise(
            before=before.recipe, after=after.recipe, how_before=before.how_read, how=after.how_read
        )
    return ExtractTaken(export=after.id, name=after.name, before=before.name)


def _analyses(was: StudySnapshot, now: StudySnapshot) -> Done | None:
    there = {a.id: a for a in was.analyses}
    gone = now.gone - was.gone
    if gone:
        of = there.get(next(iter(gone)))
        name, stage = ("", PREPARE) if of is None else (of.name, of.stage)
        return AnalysisDeleted(stage=stage, analysis=next(iter(gone)), name=name)
    changed = [a for a in now.analyses if there.get(a.id) != a]
    if len(changed) > 1:
        return StatementsGiven(after={a.stage: dict(a.body or {}) for a in changed})
    for one in changed:
        before = there.get(one.id, Analysis(id=one.id, stage=one.stage))
        if one.begun and one.id not in there:
            return AnalysisBegun(stage=one.stage, analysis=one.id, name=one.name)
        if before.body == one.body:
            return AnalysisArranged(
                stage=one.stage, analysis=one.id, before=_place(before), after=_place(one)
            )
        body = keys_of_the_field(one.body or {})
        version = int(body.get("version", 1))
        earlier = keys_of_the_field(before.body or {})
        return statement_action(one.stage, one.id or 0, version, earlier, body)
    return None


def _place(analysis: Analysis) -> AnalysisPlace:
    return AnalysisPlace(name=analysis.name, position=analysis.position, needs=dict(analysis.needs))


def _shown(was: StudySnapshot, now: StudySnapshot) -> Done | None:
    """How figures are printed and shown, and groups drawn."""
    for view, settings in now.figures.items():
        if was.figures.get(view) != settings:
            before = dict(was.figures.get(view, {}))
            return FigureSet(view=view, before=before, after=dict(settings))
    for view, tracks in now.tracks.items():
        if was.tracks.get(view) != tracks:
            shown = was.tracks.get(view)
            return TracksShown(
                view=view,
                before=None if shown is None else tuple(dict(t) for t in shown),
                after=tuple(dict(t) for t in tracks),
            )
    for group, style in now.group_styles.items():
        if was.group_styles.get(group) != style:
            drawn = was.group_styles.get(group)
            return GroupStyleSet(
                view=PREPARE,
                group=group,
                before=None if drawn is None else dict(drawn),
                after=dict(style),
            )
    return None
