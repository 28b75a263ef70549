"""A covariate that is made from a further table: one class each, and one place in the union
(methods.md, section 11: Several tables; time-varying covariates)."""

from dataclasses import dataclass
from itertools import pairwise
from typing import Annotated, Literal, TypeAlias

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from hourglass.cohort.condition import Condition
from hourglass.cohort.records.clock import RecordClock
from hourglass.cohort.table import Column, NumberColumn, TextColumn, decimals_in
from hourglass.core.arrays import FloatArray
from hourglass.core.covariates.course import Course
from hourglass.core.covariates.gathered import SUMMARIES, gathered, time_since
from hourglass.core.covariates.in_force import change_since_baseline, in_force
from hourglass.core.covariates.periods import (
    Crossings,
    Periods,
    banded,
    period_on,
    period_value,
    periods_of,
    sum_crossings,
    united,
)
from hourglass.core.covariates.records import (
    SAME_TIME_RULES,
    Records,
    SameTimeRule,
    constant_values,
    records_of,
)

Times = tuple[FloatArray, ...]
Length = Annotated[float, Field(gt=0, allow_inf_nan=False)]
Lag = Annotated[float, Field(ge=0, allow_inf_nan=False)]
Cuts = Annotated[tuple[Length, ...], Field(min_length=1, max_length=20)]
Rule = Literal["first", "last", "mean", "smallest", "largest"]
NO, YES, NEVER = "no", "yes", "never"


@dataclass(frozen=True, slots=True, kw_only=True)
class UsedRows:
    """The rows of a further table that a covariate is made from.

    Attributes:
        subject: (m,) the place of the subject of each.
        start: (m,) its time, or from when it holds, in whole units from the subject's origin.
        end: (m,) up to and with when a period holds, +inf where open; ``start`` for records.
        column: (m,) the values, where the covariate has any.
        clock: how whole units become times of the study.
        baseline: (s,) the time b of each subject; ``before_landmark``: that before a landmark, if one is set.
    """

    subject: NDArray[np.int64]
    start: FloatArray
    end: FloatArray
    column: Column | None
    clock: RecordClock
    baseline: FloatArray
    before_landmark: FloatArray | None

    @property
    def value(self) -> FloatArray:
        """(m,) numbers, or the places of levels; NaN where there is none."""
        if self.column is None:
            return np.ones(self.subject.size)
        if isinstance(self.column, TextColumn):
            return np.where(self.column.missing, np.nan, self.column.codes.astype(np.float64))
        assert isinstance(self.column, NumberColumn)
        return self.column.values


class BaseCovariate(BaseModel):
    """What all covariates have.

    Attributes:
        kind: which of the covariates it is; each class states its own.
        into: the name of the column that it becomes.
        condition: which rows of the table count; all where none is stated.
        reference: the level that others are compared with, where it has levels; the first where none is
            stated.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    kind: str
    into: str = Field(min_length=1, max_length=300)
    condition: Condition | None = None
    reference: str = Field(default="", max_length=1000)

    @property
    def changes(self) -> bool:
        """Whether its value may change during follow-up."""
        return True

    @property
    def of_column(self) -> str | None:
        """The column whose values it takes, if any."""
        return getattr(self, "column", None)

    @property
    def needs_numbers(self) -> bool:
        """Whether it can be made of a column of numbers alone."""
        return False

    def lengths(self) -> tuple[float, ...]:
        """The lengths of time that it states."""
        return ()

    def moments(self, rows: UsedRows) -> Times:
        """Times in whole units that are to stand beside those of follow-up."""
        raise NotImplementedError

    def course(self, rows: UsedRows, times: Times) -> Course:
        """Its value over time, from its moments as they stand beside the times of follow-up.

        Raises:
            RefusedRowsError: naming rows of the table by position.
        """
        raise NotImplementedError

    def made(self, values: FloatArray, of: Column | None) -> Column:
        """The column of its values (p,), NaN where missing; ``of``: the column whose values it takes."""
        if isinstance(of, NumberColumn):
            return NumberColumn(name=self.into, values=values, decimals=of.decimals, unit=of.unit)
        return NumberColumn(name=self.into, values=values, decimals=decimals_in(values))


class _OfRecords(BaseCovariate):
    """A covariate made from dated records, which may count later than they were made."""

    lag: Lag = 0.0
    limit: Length | None = None

    def lengths(self) -> tuple[float, ...]:
        return tuple(one for one in (self.lag, self.limit) if one)

    def moments(self, rows: UsedRows) -> Times:
        at = rows.start + rows.clock.length(self.lag)
        until = at + (np.inf if self.limit is None else rows.clock.length(self.limit))
        return at, rows.start, until

    def _records(self, rows: UsedRows, times: Times) -> Records:
        return records_of(rows.subject, times[0], rows.value, own=times[1], until=times[2])


class _OfValues(_OfRecords):
    column: str
    same_time: Rule | None = None

    @property
    def needs_numbers(self) -> bool:
        return self.same_time in {"mean", "smallest", "largest"}

    @property
    def _rule(self) -> SameTimeRule | None:
        return None if self.same_time is None else SAME_TIME_RULES[self.same_time]

    def made(self, values: FloatArray, of: Column | None) -> Column:
        if not isinstance(of, TextColumn):
            return super().made(values, of)
        return of_levels(self.into, values, of.levels, of.reference)


class InForce(_OfValues):
    """The value of the last record before each time, up to an age of ``limit``."""

    kind: Literal["in force"] = "in force"

    def course(self, rows: UsedRows, times: Times) -> Course:
        return in_force(self._records(rows, times), rows.baseline, self._rule)


class AtBaseline(_OfValues):
    """The value of the last record at or before entry."""

    kind: Literal["baseline"] = "baseline"

    @property
    def changes(self) -> bool:
        return False

    def course(self, rows: UsedRows, times: Times) -> Course:
        found = in_force(self._records(rows, times), rows.baseline, self._rule)
        return constant(found.first)


class Change(_OfValues):
    """The value in force less that at entry."""

    kind: Literal["change"] = "change"

    @property
    def needs_numbers(self) -> bool:
        return True

    def course(self, rows: UsedRows, times: Times) -> Course:
        return change_since_baseline(
            self._records(rows, times), rows.baseline, self._rule, rows.before_landmark
        )


class Constant(_OfValues):
    """A value that does not change, which any record may give; all must agree."""

    kind: Literal["constant"] = "constant"

    @property
    def changes(self) -> bool:
        return False

    def course(self, rows: UsedRows, times: Times) -> Course:
        return constant(constant_values(self._records(rows, times), rows.baseline.size))


class Gathered(_OfRecords):
    """What the records before each time come to, those of the last ``limit`` where one is stated.

    ``after_entry``: only those after entry count.
    """

    kind: Literal["count", "ever", "sum", "mean", "largest", "smallest"]
    column: str | None = None
    after_entry: bool = False

    @property
    def needs_numbers(self) -> bool:
        return SUMMARIES[self.kind].of_values

    def course(self, rows: UsedRows, times: Times) -> Course:
        records = self._records(rows, times)
        counted = records.after(rows.baseline) if self.after_entry else records
        return gathered(counted, rows.baseline, SUMMARIES[self.kind])

    def made(self, values: FloatArray, of: Column | None) -> Column:
        return yes_or_no(self.into, values) if self.kind == "ever" else super().made(values, of)


class TimeSince(_OfRecords):
    """The time since the first or the last record before each time, in bands at cuts."""

    kind: Literal["time since"] = "time since"
    which: Literal["first", "last"] = "last"
    cuts: Cuts

    def lengths(self) -> tuple[float, ...]:
        return (*super().lengths(), *self.cuts)

    def moments(self, rows: UsedRows) -> Times:
        at, own, until = super().moments(rows)
        return at, own, until, *(at + rows.clock.length(cut) for cut in sorted(self.cuts))

    def course(self, rows: UsedRows, times: Times) -> Course:
        crossings = np.stack(times[3:], axis=1)
        return time_since(
            self._records(rows, times), rows.baseline, crossings, last=self.which == "last"
        )

    def made(self, values: FloatArray, of: Column | None) -> Column:
        return bands(self.into, values, self.cuts, never=True)


class _OfPeriods(BaseCovariate):
    """A covariate made from periods; overlapping ones of equal value are one where they are united."""

    unite: bool = False

    def moments(self, rows: UsedRows) -> Times:
        return rows.start, rows.end

    def _periods(self, rows: UsedRows, times: Times, value: FloatArray | None) -> Periods:
        make = united if self.unite else periods_of
        return make(rows.subject, times[0], times[1], value)


class PeriodOn(_OfPeriods):
    """Whether a period is on."""

    kind: Literal["on"] = "on"

    def course(self, rows: UsedRows, times: Times) -> Course:
        return period_on(self._periods(rows, times, None), rows.baseline)

    def made(self, values: FloatArray, of: Column | None) -> Column:
        return yes_or_no(self.into, values)


class PeriodValue(_OfPeriods):
    """The value of the period that is on; outside missing, or 0 where that is stated."""

    kind: Literal["value"] = "value"
    column: str
    zero_outside: bool = False

    def course(self, rows: UsedRows, times: Times) -> Course:
        outside = 0.0 if self.zero_outside else np.nan
        return period_value(self._periods(rows, times, rows.value), rows.baseline, outside)

    def made(self, values: FloatArray, of: Column | None) -> Column:
        if not isinstance(of, TextColumn):
            return super().made(values, of)
        return of_levels(self.into, values, of.levels, of.reference)


class Cumulative(_OfPeriods):
    """What periods add up to, in bands at cuts: the time on, or with a column the value times the time on."""

    kind: Literal["time on", "cumulative"]
    column: str | None = None
    cuts: Cuts

    @property
    def needs_numbers(self) -> bool:
        return self.kind == "cumulative"

    def lengths(self) -> tuple[float, ...]:
        return self.cuts if self.kind == "time on" else ()

    def _crossings(self, rows: UsedRows) -> Crossings:
        value = rows.value if self.kind == "cumulative" else None
        periods = self._periods(rows, (rows.start, rows.end), value)
        cuts = np.array([rows.clock.length(cut) for cut in sorted(self.cuts)])
        return sum_crossings(periods, cuts, rows.baseline.size)

    def moments(self, rows: UsedRows) -> Times:
        found = self._crossings(rows)
        return found.after, found.missing

    def course(self, rows: UsedRows, times: Times) -> Course:
        found = self._crossings(rows)
        return banded(Crossings(found.subject, found.cut, times[0], times[1]), rows.baseline)

    def made(self, values: FloatArray, of: Column | None) -> Column:
        return bands(self.into, values, self.cuts, never=False)


Covariate: TypeAlias = Annotated[
    InForce
    | AtBaseline
    | Change
    | Constant
    | Gathered
    | TimeSince
    | PeriodOn
    | PeriodValue
    | Cumulative,
    Field(discriminator="kind"),
]
"""A covariate of any kind."""
OF_PERIODS: tuple[type[BaseCovariate], ...] = (_OfPeriods,)
"""Those that are made from periods; the others are made from dated records."""


def constant(first: FloatArray) -> Course:
    """A course that never changes."""
    return Course(first, np.empty(0, dtype=np.int64), np.empty(0), np.empty(0))


def yes_or_no(name: str, values: FloatArray) -> TextColumn:
    """The column of 1 and 0, in words."""
    return of_levels(name, values, (NO, YES))


def of_levels(
    name: str, values: FloatArray, levels: tuple[str, ...], reference: str = ""
) -> TextColumn:
    """The column of the places of levels (p,), NaN where missing."""
    codes = np.where(np.isnan(values), -1, values).astype(np.int32)
    return TextColumn(name=name, codes=codes, levels=levels, reference=reference)


def bands(name: str, values: FloatArray, cuts: tuple[float, ...], *, never: bool) -> TextColumn:
    """The column of how many cuts are exceeded, −1 for never, in words."""
    marks = [f"{cut:.15g}" for cut in sorted(cuts)]
    between = [f"{low} to {high}" for low, high in pairwise(marks)]
    levels = (f"up to {marks[0]}", *between, f"over {marks[-1]}")
    return (
        of_levels(name, values + 1, (NEVER, *levels)) if never else of_levels(name, values, levels)
    )
