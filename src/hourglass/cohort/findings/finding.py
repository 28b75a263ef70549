"""What a finding is, and how a choice about it becomes steps."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

import numpy as np
from numpy.typing import NDArray

from hourglass.cohort.derive import Derivation
from hourglass.cohort.statement import CodeMeaning, FollowUpStatement, Meaning
from hourglass.cohort.steps.apply import Step
from hourglass.cohort.steps.cells import CorrectCell, MarkMissing
from hourglass.cohort.steps.rows import SetAside
from hourglass.cohort.table import Column, Table
from hourglass.cohort.words import cut, grouped

Rows = NDArray[np.int64]


@dataclass(frozen=True, slots=True, kw_only=True)
class Choice:
    """Something that can be decided: its name, its words, and the steps that carry it out.

    ``codes`` are codes of the outcome and what each means once this is chosen; ``outcome`` is the column
    that then holds it, where that is another.
    """

    name: str
    label: str
    done: str
    steps: tuple[Step, ...] = ()
    codes: tuple[tuple[str, Meaning], ...] = ()
    outcome: str = ""


KEEP = Choice(name="keep", label="Keep as it is", done="kept as it is")
CORRECT = Choice(name="correct", label="Correct …", done="corrected")


@dataclass(frozen=True, slots=True)
class SmallCurve:
    """A curve of a small picture: its name, times, heights from 0 to 1, and the choice that leads to it."""

    name: str
    times: tuple[float, ...]
    heights: tuple[float, ...]
    choice: str = ""


@dataclass(frozen=True, slots=True)
class Beside:
    """Rows of one subject side by side.

    Attributes:
        name: of the subject; ``columns``: those in which the rows differ, ``more`` being left out.
        rows: row numbers; ``cells``: a line of cells for each row.
    """

    name: str
    columns: tuple[str, ...]
    rows: tuple[int, ...]
    cells: tuple[tuple[str, ...], ...]
    more: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """Something noticed: the rows, why it matters, and what can be done.

    Attributes:
        key: names the finding across visits: its kind and columns.
        title: a sentence with the count.
        why: why it matters.
        rows: row numbers in the table.
        columns: the columns concerned, for showing and correcting cells.
        choices: what can be decided; the program never decides.
        picture: both readings of an outcome, where there are two.
        within: the key of a finding about many that this one is part of.
        beside: rows to be compared side by side.
    """

    key: str
    title: str
    why: str
    rows: Rows
    columns: tuple[str, ...]
    choices: tuple[Choice, ...]
    picture: tuple[SmallCurve, ...] = ()
    within: str = ""
    beside: tuple[Beside, ...] = ()

    def choice(self, name: str) -> Choice | None:
        """The choice of that name, if it is one of the finding's."""
        return next((c for c in self.choices if c.name == name), None)


@dataclass(frozen=True, slots=True, kw_only=True)
class FindingContext:
    """What findings are looked for in: the table, the statement, what it makes, and the day.

    ``made`` names columns that steps made of others; ``raw`` is the table as it was read.
    """

    table: Table
    statement: FollowUpStatement
    derived: Derivation | None
    today: date
    made: frozenset[str]
    raw: Table | None = None

    @property
    def columns(self) -> tuple[Column, ...]:
        """The columns that somebody sent, rather than made here."""
        return tuple(c for c in self.table.columns if c.name not in self.made)

    def numbers(self, hit: NDArray[np.bool_]) -> Rows:
        """Row numbers of the rows that are hit."""
        return self.table.numbers[hit]

    def events(self) -> NDArray[np.bool_] | None:
        """(n,) True where the row had the event, as far as codes have a meaning."""
        if self.derived is None:
            return None
        return self.derived.means("event")


def steps_for(finding: Finding, name: str, corrections: Sequence[CorrectCell] = ()) -> list[Step]:
    """The steps that carry out a choice; "keep" needs none."""
    if name == "correct":
        return list(corrections)
    chosen = finding.choice(name)
    return [] if chosen is None else list(chosen.steps)


def statement_for(choice: Choice, statement: FollowUpStatement) -> FollowUpStatement:
    """The statement with what a choice makes of its outcome."""
    if choice.outcome:
        return statement.model_copy(update={"outcome": choice.outcome, "meanings": {}})
    if not choice.codes:
        return statement
    given = {code: CodeMeaning(meaning=means) for code, means in choice.codes}
    return statement.model_copy(update={"meanings": {**statement.meanings, **given}})


def set_aside(rows: Rows, why: str, label: str = "Set aside") -> Choice:
    """The choice to leave the rows out."""
    return Choice(
        name="set aside",
        label=label,
        done="set aside",
        steps=(SetAside(rows=tuple(map(int, rows)), why=cut(why, 300)),),
    )


def take_for_missing(column: str, values: Sequence[str]) -> Choice:
    """The choice to read some values of a column as nothing known."""
    return Choice(
        name="mark missing",
        label="Take it for missing",
        done="taken for missing",
        steps=(MarkMissing(column=column, values=tuple(values)),),
    )


def count(hit: Rows | NDArray[np.bool_]) -> str:
    """How many rows, in words."""
    n = int(hit.sum()) if hit.dtype == bool else hit.size
    return "1 row" if n == 1 else f"{grouped(n)} rows"


def they(hit: NDArray[np.bool_], several: str, one: str) -> str:
    """The count with the verb that goes with it."""
    return f"{count(hit)} {one if hit.sum() == 1 else several}"
