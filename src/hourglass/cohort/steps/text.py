"""Taking text apart and putting it right: each way of doing it is a small class."""

import re
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from pydantic import Field

from hourglass.cohort.steps.step import BrokenStepError, Done, StepBase, text_column_of
from hourglass.cohort.table import Table, TextColumn

How = Literal[
    "before",
    "after",
    "between",
    "part",
    "replace",
    "pad",
    "trim",
    "upper",
    "lower",
    "split",
    "date",
    "last date",
]
MAX_PARTS = 20
DATE_IN_TEXT = r"\b(\d{4}-\d{1,2}-\d{1,2}|\d{1,2}[./-]\d{1,2}[./-](\d{4}|\d{2}))\b"


@dataclass(frozen=True, slots=True)
class Way:
    """One way to change a text: ``words`` names it, ``on`` gives the new text, or None for nothing."""

    words: Callable[["EditText"], str]
    on: Callable[["EditText", str], str | None]


def _before(step: "EditText", text: str) -> str | None:
    head, found, _ = text.partition(step.mark)
    return head if found else None


def _after(step: "EditText", text: str) -> str | None:
    _, found, tail = text.partition(step.mark)
    return tail if found else None


def _between(step: "EditText", text: str) -> str | None:
    _, found, tail = text.partition(step.mark)
    head, closed, _ = tail.partition(step.other)
    return head if found and closed else None


def _part(step: "EditText", text: str) -> str | None:
    parts = text.split(step.mark)
    return parts[step.number - 1] if step.number <= len(parts) else None


def _date(step: "EditText", text: str) -> str | None:
    found = dates_in(text)
    return found[step.number - 1] if step.number <= len(found) else None


def _last_date(step: "EditText", text: str) -> str | None:
    found = dates_in(text)
    return found[-1] if found else None


def dates_in(text: str) -> list[str]:
    """The dates in a text, in its order."""
    return [found[0] for found in re.finditer(DATE_IN_TEXT, text)]


WAYS: dict[How, Way] = {
    "before": Way(lambda s: f"what stands before “{s.mark}”", _before),
    "after": Way(lambda s: f"what stands after “{s.mark}”", _after),
    "between": Way(lambda s: f"what stands between “{s.mark}” and “{s.other}”", _between),
    "part": Way(lambda s: f"part {s.number} when split at “{s.mark}”", _part),
    "replace": Way(
        lambda s: f"“{s.mark}” replaced by “{s.other}”", lambda s, t: t.replace(s.mark, s.other)
    ),
    "pad": Way(
        lambda s: f"padded with “{s.other or '0'}” to {s.number} characters",
        lambda s, t: t.rjust(s.number, (s.other or "0")[0]),
    ),
    "trim": Way(lambda s: "spaces around and doubled taken away", lambda s, t: " ".join(t.split())),
    "date": Way(
        lambda s: "the first date in it" if s.number == 1 else f"date {s.number} in it", _date
    ),
    "last date": Way(lambda s: "the last date in it", _last_date),
    "upper": Way(lambda s: "in capitals", lambda s, t: t.upper()),
    "lower": Way(lambda s: "in small letters", lambda s, t: t.lower()),
}
NEEDS_MARK = ("before", "after", "between", "part", "replace", "split")


class EditText(StepBase):
    """Make a text of another: a part of it, or itself put right; "split" makes a column of each part."""

    kind: Literal["edit_text"] = "edit_text"
    column: str
    how: How = "before"
    mark: str = Field(default="", max_length=100)
    other: str = Field(default="", max_length=100)
    number: int = Field(default=1, ge=1, le=100)
    into: str = Field(default="", max_length=300)

    def named(self) -> str:
        into = f" as {self.into}" if self.into and self.into != self.column else ""
        if self.how == "split":
            return f"Split {self.column} at “{self.mark}”{into}"
        return f"{self.column}: {WAYS[self.how].words(self)}{into}"

    def on(self, table: Table) -> Done:
        column = text_column_of(table, self.column)
        if self.how in NEEDS_MARK and self.mark == "":
            raise BrokenStepError("give the mark")
        if self.how == "split":
            return self._split(table, column)
        way = WAYS[self.how]
        made = _mapped(
            column, self.into or column.name, [way.on(self, level) for level in column.levels]
        )
        lost = int((made.missing & ~column.missing).sum())
        note = f"{lost} cells have nothing there and are missing now" if lost else ""
        levels = len(made.counts())
        return Done(
            table=table.with_column(made),
            cells_changed=int((~column.missing).sum()),
            made=f"{levels} {'level' if levels == 1 else 'levels'}",
            note=note,
        )

    def _split(self, table: Table, column: TextColumn) -> Done:
        parts = [level.split(self.mark) for level in column.levels]
        width = max((len(p) for p in parts), default=0)
        if width < 2:
            raise BrokenStepError(f"no cell of {column.name} holds “{self.mark}”")
        if width > MAX_PARTS:
            raise BrokenStepError(f"a cell would fall into {width} parts; at most {MAX_PARTS}")
        for k in range(width):
            name = f"{self.into or column.name} {k + 1}"
            texts = [p[k] if k < len(p) else None for p in parts]
            table = table.with_column(_mapped(column, name, texts))
        return Done(
            table=table, cells_changed=int((~column.missing).sum()), made=f"{width} columns"
        )


def _mapped(column: TextColumn, name: str, texts: list[str | None]) -> TextColumn:
    """A column whose levels became other texts; blank ones are missing."""
    held = [None if text is None or not text.strip() else text.strip() for text in texts]
    levels = sorted({text for text in held if text is not None})
    place = {level: k for k, level in enumerate(levels)}
    new = np.array([*(-1 if text is None else place[text] for text in held), -1], dtype=np.int32)
    made = replace(column, name=name, codes=new[column.codes], levels=tuple(levels), reference="")
    return made if name == column.name else replace(made, label="", as_written=None)
