"""From a table and a follow-up statement to a cohort, or to the reasons why not yet."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hourglass.cohort.derive import NO_LATE_ENTRY, Blocker, Derivation, Derived, derive
from hourglass.cohort.not_supported import unsupported
from hourglass.cohort.shape import shaped
from hourglass.cohort.statement import BLANK, CodeMeaning, FollowUpStatement
from hourglass.cohort.steps.step import keys_of
from hourglass.cohort.table import Table
from hourglass.cohort.time_decimals import TimeDecimals, time_decimals
from hourglass.cohort.words import cut, grouped
from hourglass.core.errors import RefusedRowsError
from hourglass.core.followup import FollowUp, follow_up


@dataclass(frozen=True, slots=True, eq=False, weakref_slot=True)
class Cohort:
    """Rows that can be analysed, with their follow-up, in the statement's unit.

    ``follow_up`` has a row for each of the table's, counts included in its own ``count``;
    ``decimals`` are those that its times are shown with; ``time_varying`` names the columns whose values
    change during a subject's follow-up, which is parted into rows then.
    """

    table: Table
    follow_up: FollowUp
    statement: FollowUpStatement
    decimals: TimeDecimals
    competing: tuple[str, ...]
    time_varying: frozenset[str] = frozenset()

    @property
    def rows_are(self) -> str:
        """What to call those who are followed: subjects where each may have several rows."""
        unnamed = FollowUpStatement.model_fields["rows_are"].default
        several = self.follow_up.subject is not None
        named = self.statement.rows_are
        return "subjects" if several and named == unnamed else named


def form_cohort(
    table: Table, statement: FollowUpStatement, derived: Derived | None = None
) -> Cohort | tuple[Blocker, ...]:
    """The rows that can be analysed, or what must be decided first.

    Args:
        derived: what :func:`derive` makes of both, where it is known already.
    """
    found = derive(table, statement) if derived is None else derived
    if not isinstance(found, Derivation):
        return found
    made = shaped(found, statement)
    shape, kept = made.derived, np.flatnonzero(made.kept)
    counts = shape.counts()
    unknown = {code: n for code, n in counts.items() if shape.meaning(code) is None}
    blocks = (
        *unsupported(table, statement),
        *_unknown(unknown, statement.outcome),
        *_unusable(table, statement, found, made.kept),
        *_impossible(statement),
    )
    if blocks:
        return blocks
    if kept.size == 0:
        return (Blocker("Every row has been set aside: there is nobody to follow.", None),)
    try:
        data, competing = rows_followed(table, statement, shape, kept)
    except RefusedRowsError as refused:
        numbers = table.numbers[kept]
        return tuple(
            Blocker(f"{_rows(r.rows.size)}: {r.reason}.", None, tuple(map(int, numbers[r.rows])))
            for r in refused.refusals
        )
    names = tuple(_name(shape.meaning(c), c) for c in competing)
    decimals = time_decimals(_times(data), data.end)
    return Cohort(table.take(kept), data, statement, decimals, names)


def rows_followed(
    table: Table, statement: FollowUpStatement, shape: Derivation, kept: NDArray[np.int64]
) -> tuple[FollowUp, tuple[str, ...]]:
    """The follow-up of rows that can be used, and the codes of their competing events.

    Raises:
        RefusedRowsError: when the rows of a subject do not go together.
    """
    seen = np.bincount(shape.code_of[kept], minlength=len(shape.codes))
    competing = tuple(
        c for c, n in zip(shape.codes, seen, strict=True) if n and _meaning(shape, c) == "competing"
    )
    status = np.array([_status(shape, c, competing) for c in shape.codes], dtype=np.int64)
    data = follow_up(
        shape.time[kept],
        status[shape.code_of[kept]],
        shape.entry[kept],
        shape.count[kept],
        _subjects(table, statement, kept),
        statement.near_ties,
    )
    return data, competing


def _subjects(
    table: Table, statement: FollowUpStatement, kept: NDArray[np.int64]
) -> NDArray[np.int64] | None:
    """Whom each row belongs to, where a subject may have several; a row without one is one by itself."""
    if not statement.several_rows or not table.has(statement.subject):
        return None
    key = keys_of(table, [statement.subject or ""])
    alone = np.arange(table.size) + key.max(initial=-1) + 1
    return np.where(key < 0, alone, key)[kept]


def _meaning(derived: Derivation, code: str) -> str:
    given = derived.meaning(code)
    return "" if given is None else given.meaning


def _name(given: CodeMeaning | None, code: str) -> str:
    return (given.name if given is not None else "") or code


def _status(derived: Derivation, code: str, competing: tuple[str, ...]) -> int:
    meaning = _meaning(derived, code)
    if meaning == "event":
        return 1
    return 2 + competing.index(code) if code in competing else 0


def unusable(
    found: Derivation, statement: FollowUpStatement
) -> Iterator[tuple[str, NDArray[np.bool_], str]]:
    """Rows that have no place in any analysis: a key, which rows, and what is wrong with them."""
    time, entry, count = found.time, found.entry, found.count
    dated = statement.dated
    with np.errstate(invalid="ignore"):
        if found.no_start is None:
            yield "no time", np.isnan(time), "no time"
        else:
            yield "no start", found.no_start, "no start"
            yield "no end", np.isnan(time) & ~found.no_start, "no end"
        backwards = "an end before the start" if dated else "a negative time"
        yield "end before start", (time < 0) & ~found.started_late, backwards
        yield "start after closing", (time < 0) & found.started_late, "a start after closing"
        late = (entry > NO_LATE_ENTRY) & (time >= 0) & (entry >= time)
        yield "entry after end", late, "an entry at or after the end"
        strange = np.isnan(count) | (count < 0) | (count != np.floor(count))
        yield "no count", strange, "a count that is no whole number"


def _unusable(
    table: Table, statement: FollowUpStatement, found: Derivation, kept: NDArray[np.bool_]
) -> Iterator[Blocker]:
    # What a landmark leaves out was followed once; what cannot be used never was.
    looked_at = ~found.means("set aside")
    for _, bad, what in unusable(found, statement):
        rows = bad & looked_at & (kept | np.isnan(found.time) | (found.time < 0))
        if rows.any():
            yield Blocker(
                f"{_rows(int(rows.sum()))} with {what}: decide about them among the findings.",
                None,
                tuple(map(int, table.numbers[rows])),
            )


def _impossible(statement: FollowUpStatement) -> Iterator[Blocker]:
    if (
        statement.landmark is not None
        and statement.longest is not None
        and statement.landmark >= statement.longest
    ):
        yield Blocker(
            "The landmark lies at or after the longest follow-up: nobody would be left.", "landmark"
        )


def _unknown(counts: dict[str, int], outcome: str | None) -> Iterator[Blocker]:
    """One block for a blank outcome, which is no code, and one for all codes without a meaning."""
    if BLANK in counts:
        yield Blocker(
            f"{outcome} is blank in {_rows(counts[BLANK])}. A blank is not taken for censored: "
            "state what it means, or decide about the rows.",
            "outcome",
        )
    codes = [f"{cut(code)} ({_rows(n)})" for code, n in counts.items() if code != BLANK]
    if codes:
        shown = codes if len(codes) <= 8 else [*codes[:7], f"{len(codes) - 7} more"]
        listed = ", ".join(shown[:-1]) + (" and " if len(shown) > 1 else "") + shown[-1]
        verb, they = ("has", "it means") if len(codes) == 1 else ("have", "they mean")
        yield Blocker(f"{outcome} {listed} {verb} no meaning yet: state what {they}.", "outcome")


def _times(data: FollowUp) -> NDArray[np.float64]:
    entry = np.empty(0) if data.entry is None else data.entry[np.isfinite(data.entry)]
    return np.concatenate([data.exit, entry])


def _rows(count: int) -> str:
    return "1 row" if count == 1 else f"{grouped(count)} rows"
