"""The history of a study: one log, in which undoing and redoing are entries like any other."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime

BEGUN, SET, READ, ARRANGED, NAMED, SEALED, WITHDRAWN, UNDONE, REDONE = (
    "begun", "set", "read", "arranged", "named", "sealed", "withdrawn", "undone", "redone",
)  # fmt: skip
PLAIN = frozenset((BEGUN, SET, READ, ARRANGED, NAMED, SEALED, WITHDRAWN, UNDONE, REDONE))
"""Choices that are changed where they were made, or undone in their turn, but not withdrawn."""


@dataclass(frozen=True, slots=True, kw_only=True)
class NewDecision:
    """A decision to record.

    Attributes:
        stage: where it was made; ``about``: the slot, finding or step it is about.
        choice: what was done, in a word; ``sentence``: in full.
        reason: why, in the words of whoever decided.
        before, after: how what was changed read.
        undoes, redoes: the decision that is undone or redone by this one.
        withdraws: decisions that do not stand after this one.
    """

    stage: str
    about: str
    choice: str
    sentence: str
    reason: str = ""
    before: str = ""
    after: str = ""
    undoes: int | None = None
    redoes: int | None = None
    withdraws: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Decision(NewDecision):
    """An entry of the log. ``whole`` says whether what was decided up to it is kept with it."""

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
        else:
            done.append(entry)
            undone = []
    for entry in done:
        gone_at.update(dict.fromkeys(entry.withdraws, entry.made_at))
    under = done[-2] if len(done) > 1 and done[-1].choice != BEGUN else None
    return History(
        standing=tuple(d for d in done if d.id not in gone_at),
        gone_at=gone_at,
        undo=done[-1] if under is not None and under.whole else None,
        redo=undone[-1] if undone else None,
        under=under,
    )


def reported(standing: Sequence[Decision], stage: str) -> tuple[Decision, ...]:
    """The decisions that a report lists: those with reasons of their own, and what is set in a stage.

    Of what was set several times in that stage the last is listed.
    """
    last = {d.about: d.id for d in standing if d.choice == SET and d.stage == stage}
    return tuple(d for d in standing if d.choice not in PLAIN or last.get(d.about) == d.id)
