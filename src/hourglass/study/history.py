"""The history of a study: one log, in which undoing and redoing are entries like any other."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, fields
from datetime import datetime

from hourglass.cohort.words import cut
from hourglass.study.actions.follow_up import FollowUpSet
from hourglass.study.actions.turns import StudyBegun
from hourglass.study.actions.union import Action

MAX_SENTENCE_CHARACTERS = 300
"""Letters of a sentence of the log."""


@dataclass(frozen=True, slots=True, kw_only=True)
class NewDecision:
    """A decision to record.

    Attributes:
        action: what was done, with what was before and after.
        reason: why, in the words of whoever decided.
        actor: who decided; None while nobody is known to the program.
        undoes, redoes: the decision that is undone or redone by this one.
        withdraws: decisions that do not stand after this one.
    """

    action: Action
    reason: str = ""
    actor: str | None = None
    undoes: int | None = None
    redoes: int | None = None
    withdraws: tuple[int, ...] = ()

    @property
    def stage(self) -> str:
        """Where it was made."""
        return self.action.where

    @property
    def sentence(self) -> str:
        """What was decided, short enough to be read at a glance."""
        return cut(self.action.sentence, MAX_SENTENCE_CHARACTERS)

    def logged(self, id: int, made_at: datetime, *, whole: bool = True) -> "Decision":
        """The decision as an entry of the log."""
        given = {one.name: getattr(self, one.name) for one in fields(NewDecision)}
        return Decision(**given, id=id, made_at=made_at, whole=whole)


@dataclass(frozen=True, slots=True, kw_only=True)
class Decision(NewDecision):
    """An entry of the log. ``whole`` states whether what was decided up to it is kept with it."""

    id: int
    made_at: datetime
    whole: bool = True


@dataclass(frozen=True, slots=True)
class History:
    """What a log comes to.

    Attributes:
        standing: decisions neither undone nor withdrawn, oldest first.
        gone_at: when each of the others was undone or withdrawn.
        undo, redo: the decision that would be undone or redone next.
        under: the decision that the study goes back to when ``undo`` is undone.
    """

    standing: tuple[Decision, ...]
    gone_at: Mapping[int, datetime] = field(default_factory=dict)
    undo: Decision | None = None
    redo: Decision | None = None
    under: Decision | None = None


def history_of(decisions: Sequence[Decision]) -> History:
    """Go through a log from its beginning: what was undone is gone once something else is decided."""
    done: list[Decision] = []
    undone: list[Decision] = []
    gone_at: dict[int, datetime] = {}
    for entry in decisions:
        if entry.undoes is not None:
            undone.append(done.pop())
            gone_at[entry.undoes] = entry.made_at
        elif entry.redoes is not None:
            done.append(undone.pop())
            gone_at.pop(entry.redoes, None)
        elif entry.action.undoable:
            done.append(entry)
            undone = []
    for entry in done:
        gone_at.update(dict.fromkeys(entry.withdraws, entry.made_at))
    under = done[-2] if len(done) > 1 and not isinstance(done[-1].action, StudyBegun) else None
    return History(
        standing=tuple(d for d in done if d.id not in gone_at),
        gone_at=gone_at,
        undo=done[-1] if under is not None and under.whole else None,
        redo=undone[-1] if undone else None,
        under=under,
    )


def reported(standing: Sequence[Decision]) -> tuple[Decision, ...]:
    """The decisions that a report lists: those that stand on their own, and the follow-up as it was set.

    Of what was set several times the last is listed.
    """
    last: dict[tuple[str, ...], int] = {}
    for d in standing:
        if isinstance(d.action, FollowUpSet):
            last[tuple(sorted(d.action.after))] = d.id
    return tuple(
        d
        for d in standing
        if d.action.withdrawable
        or (isinstance(d.action, FollowUpSet) and last[tuple(sorted(d.action.after))] == d.id)
    )
