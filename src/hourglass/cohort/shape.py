"""What the statement does to derived times: zero times, the longest follow-up, a landmark."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from hourglass.cohort.derive import CENSORED, NO_LATE_ENTRY, PAST_LONGEST, Derivation
from hourglass.cohort.statement import FollowUpStatement


@dataclass(frozen=True, slots=True)
class LedgerLine:
    """A line of the row ledger: rows lost, and why."""

    label: str
    rows: int


@dataclass(frozen=True, slots=True)
class Shaped:
    """Times as they are analysed.

    Attributes:
        derived: with times moved, ended early and set back.
        kept: (n,) False for rows that the statement leaves out.
        lost: those rows by reason; ``ended_early``: rows whose follow-up ends early by
            decision.
    """

    derived: Derivation
    kept: NDArray[np.bool_]
    lost: tuple[LedgerLine, ...]
    ended_early: int


def shaped(derived: Derivation, statement: FollowUpStatement) -> Shaped:
    """Apply the statement's decisions on times; rows that cannot be used stay for the findings."""
    time, entry = derived.time.copy(), derived.entry
    codes, code_of, meanings = derived.codes, derived.code_of, derived.meanings
    if statement.zero_moved_to is not None:
        time[time == 0] = statement.zero_moved_to
    beyond = np.zeros(time.size, dtype=bool)
    if statement.longest is not None:
        with np.errstate(invalid="ignore"):
            beyond = time > statement.longest
        time[beyond] = statement.longest
        if beyond.any():
            codes, meanings = (*codes, PAST_LONGEST), (*meanings, CENSORED)
            code_of = np.where(beyond, len(codes) - 1, code_of)
    kept = np.ones(time.size, dtype=bool)
    lost = []
    set_aside = np.array([m is not None and m.meaning == "set aside" for m in meanings], dtype=bool)
    for k in np.flatnonzero(set_aside):
        gone = code_of == k
        if gone.any():
            lost.append(
                LedgerLine(f"{statement.outcome} is {codes[k] or 'blank'}", int(gone.sum()))
            )
            kept &= ~gone
    none = kept & (derived.count == 0)
    if none.any():
        lost.append(LedgerLine(f"{statement.count} is 0", int(none.sum())))
        kept &= ~none
    if statement.landmark is not None:
        at = statement.landmark
        with np.errstate(invalid="ignore"):
            gone, later = kept & (time <= at), kept & (entry > at) & (time > at)
        for rows, why in ((gone, "no longer at risk"), (later, "not yet at risk")):
            if rows.any():
                lost.append(LedgerLine(f"{why} at {at:g} {statement.unit}", int(rows.sum())))
        kept &= ~gone & ~later
        time = time - at
        entry = np.full(time.size, NO_LATE_ENTRY)
    moved = replace(
        derived, time=time, entry=entry, codes=codes, code_of=code_of, meanings=meanings
    )
    return Shaped(moved, kept, tuple(lost), int((beyond | derived.past_closing).sum()))
