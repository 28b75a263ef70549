"""From a model to design columns: coding, strata, effects over time, and the rows left out
(methods.md, section 4: Proportional hazards regression)."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from hourglass.analysis.model.statement import ByColumn, HazardsModel
from hourglass.analysis.model.terms.changing import Periods
from hourglass.analysis.model.terms.column_block import ColumnBlock, Rows, UnusableTermError
from hourglass.analysis.model.terms.form import TermForm
from hourglass.analysis.model.terms.forms import Term
from hourglass.analysis.shared import naming
from hourglass.analysis.shared.causes import cause_names
from hourglass.analysis.shared.groups import MAX_LEVELS, group_by
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import Table, TextColumn
from hourglass.core.arrays import BoolArray, FloatArray, IntArray
from hourglass.core.followup import FollowUp
from hourglass.core.regression.effects import STEADY, AlongTime, Effect, OverTime, over_time, part

__all__ = ["Design", "DesignColumn", "LeftOut", "UnusableTermError", "design"]


@dataclass(frozen=True, slots=True, kw_only=True)
class DesignColumn:
    """One coefficient: its term, what it is called, and what it is compared with.

    ``value`` is the place of the values it is made of, ``part`` which of their effects it is where
    these change over time, and ``when`` that in words.
    """

    term: int
    label: str
    against: str
    comparison: str
    named: str
    value: int = 0
    part: int = 0
    when: str = ""


@dataclass(frozen=True, slots=True)
class LeftOut:
    """Rows that are not fitted: for want of a value of a column, or because somebody left them out."""

    column: str
    rows: int
    why: str


@dataclass(frozen=True, slots=True)
class Strata:
    """The baseline of each row: a code (n,) and what each is called."""

    code: IntArray
    labels: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Design:
    """The rows that can be fitted and their coded columns.

    Attributes:
        data: follow-up of the n rows that are fitted: the complete ones, parted where an effect
            changes; ``numbers``: (n,) their row numbers; ``place``: (n,) their places in the table.
        x: (n, p) coded columns; ``columns``: what each is.
        whole: True where rows are not parted although columns change from one event time to the next:
            ``x`` (n, v) are then the values that ``over_time`` makes the columns of.
        stated_terms: the terms; ``terms``: their labels; ``blocks``: their values in the whole table.
        stratum: (n,) the baseline of each row; ``strata``: what each is called.
        cluster: (n,) whom rows belong to, where errors are computed by that.
        size: how many rows are used, counts included, whether they are parted or not.
        left_out: why rows are missing; ``rows_left_out``: how many.
        over_time: how columns come from the values of the terms, where an effect changes.
        event: what happens.
        time_varying: the columns of the model whose values change during a subject's follow-up.
    """

    data: FollowUp
    numbers: IntArray
    place: IntArray
    x: FloatArray
    columns: tuple[DesignColumn, ...]
    stated_terms: tuple[Term, ...]
    terms: tuple[str, ...]
    blocks: tuple[ColumnBlock, ...]
    stratum: IntArray | None
    strata: tuple[str, ...]
    cluster: IntArray | None
    size: int
    left_out: tuple[LeftOut, ...]
    rows_left_out: int
    over_time: OverTime | None
    event: str
    time_varying: tuple[str, ...] = ()
    whole: bool = False

    @property
    def changing(self) -> OverTime | None:
        """How columns come from the values of rows that are whole; None where rows are parted, or stay."""
        return self.over_time if self.whole else None

    def of_term(self, term: int) -> IntArray:
        """Positions of a term's columns."""
        return np.array([k for k, c in enumerate(self.columns) if c.term == term], dtype=np.int64)

    def place_of(self, column: str) -> int:
        """Which term a column is, by itself."""
        return next(
            k for k, of in enumerate(self.stated_terms) if of.column == column and not of.of_terms
        )

    def with_columns(self, positions: IntArray) -> "Design":
        """The same rows with some of the columns."""
        columns = tuple(self.columns[k] for k in positions)
        if self.changing is None:
            return replace(self, x=self.x[:, positions], columns=columns)
        values, made = self.changing.among(positions)
        own, whole = (None, False) if made.steady else (made, True)
        return replace(self, x=self.x[:, values], columns=columns, over_time=own, whole=whole)

    def parted(self) -> "Design":
        """The same columns, of pieces of rows where rows are whole.

        Raises:
            NotEstimableError: when that would make too many pieces.
        """
        if self.changing is None:
            return self
        made = part(self.data, self.x, self.changing)
        row = made.pieces.row
        return replace(
            self,
            data=made.pieces.data,
            numbers=self.numbers[row],
            place=self.place[row],
            x=made.x,
            stratum=None if self.stratum is None else self.stratum[row],
            cluster=None if self.cluster is None else self.cluster[row],
            whole=False,
        )


def design(cohort: Cohort, model: HazardsModel) -> Design:
    """Code the model's terms; a row without a value of some column is left out, and counted.

    Raises:
        UnusableTermError: when a term's column cannot be coded as requested.
        NoSuchColumnError: when a column is not in the table.
        NotEstimableError: when a curve has too few values, or a function of time is not defined.
    """
    table = cohort.table
    used, left_out = _used(cohort, model)
    count = cohort.follow_up.count.astype(np.float64)
    blocks = _blocks(Rows(table, count, used, {}), model.terms)
    if not used.any():
        raise UnusableTermError("no row has a value for every term")
    data, event = follow_up_of(cohort, model.cause)
    data = data if used.all() else data.only(used)
    place = np.flatnonzero(used)
    x = np.hstack([b.x for b in blocks])[used] if blocks else np.empty((place.size, 0))
    strata = None if not model.strata else _strata(table, model.strata)
    columns = _columns(model.terms, blocks)
    effects = [_effect(model.terms[c.term]) for c in columns]
    made = None
    if any(effect is not STEADY for effect in effects):
        made = over_time(data, effects)
        columns = _over_time(columns, model.terms, made, cohort.statement.unit)
    found = Design(
        data=data,
        numbers=table.numbers[place],
        place=place,
        x=x,
        columns=tuple(columns),
        stated_terms=model.terms,
        terms=tuple(t.label for t in model.terms),
        blocks=tuple(blocks),
        stratum=None if strata is None else strata.code[place],
        strata=() if strata is None else strata.labels,
        cluster=_cluster(table, model, place),
        size=int(count[used].sum()),
        left_out=left_out,
        rows_left_out=int((~used).sum()),
        over_time=made,
        event=event,
        time_varying=tuple(
            name for name in (*model.term_columns, *model.strata) if name in cohort.time_varying
        ),
        whole=made is not None,
    )
    # Few periods part rows into few pieces; along a function of time every event time would part them.
    along = any(isinstance(effect, AlongTime) for effect in effects)
    return found if along else found.parted()


def _used(cohort: Cohort, model: HazardsModel) -> tuple[BoolArray, tuple[LeftOut, ...]]:
    """(n,) the rows that have everything, and why the others do not."""
    table, left_out = cohort.table, list[LeftOut]()
    used = np.ones(table.size, dtype=bool)
    if model.left_out:
        used[np.isin(table.numbers, model.left_out)] = False
        left_out.append(LeftOut("", int((~used).sum()), "left out by the statement"))
    names = [*model.term_columns, *model.strata, *model.rows_with]
    if isinstance(model.robust, ByColumn):
        names.append(model.robust.column)
    for name in dict.fromkeys(names):
        missing = table.column(name).missing
        if (missing & used).any():
            left_out.append(LeftOut(name, int((missing & used).sum()), f"{name} missing"))
    for name in names:
        used &= ~table.column(name).missing
    return used, tuple(left_out)


def _blocks(rows: Rows, terms: Sequence[Term]) -> list[ColumnBlock]:
    """The columns of each term: products after the terms that they are made of."""
    _require_steady_products(terms)
    found: dict[int, ColumnBlock] = {}
    own: dict[str, ColumnBlock] = {}
    for products in (False, True):
        for k, term in enumerate(terms):
            if term.of_terms == products:
                found[k] = term.coded(replace(rows, blocks=own))
                if not products:
                    own[term.column] = found[k]
    return [found[k] for k in range(len(terms))]


def _require_steady_products(terms: Sequence[Term]) -> None:
    changing = {t.column for t in terms if t.changing is not None}
    for term in terms:
        if term.of_terms and (term.changing or changing & set(term.columns)):
            raise UnusableTermError(
                f"{term.label} is a product of ratios that stay the same: let none of them change over time, "
                "or take the product out"
            )


def _columns(terms: Sequence[Term], blocks: Sequence[ColumnBlock]) -> list[DesignColumn]:
    columns = [
        DesignColumn(
            term=k,
            label=name.label,
            against=name.against,
            comparison=name.comparison,
            named=name.named,
        )
        for k in range(len(terms))
        for name in blocks[k].names
    ]
    return [replace(c, value=place) for place, c in enumerate(columns)]


def follow_up_of(cohort: Cohort, cause: str) -> tuple[FollowUp, str]:
    """The follow-up to the event, or to a competing event with all others as censorings; what it is called.

    Raises:
        UnusableTermError: when there is no such competing event.
    """
    if not cause:
        return cohort.follow_up, cohort.statement.event_name
    if cause not in cohort.competing:
        raise UnusableTermError(f"“{cause}” is no competing event of this study now")
    status = cohort.competing.index(cause) + 2
    return cohort.follow_up.of_cause(status), cause_names(cohort)[status - 1]


def _strata(table: Table, names: Sequence[str]) -> Strata:
    """The levels of the columns, crossed; −1 where one is missing."""
    code, labels = np.zeros(table.size, dtype=np.int64), [""]
    for name in names:
        groups = group_by(table, name, None)
        if not groups.labels or len(groups.labels) > MAX_LEVELS:
            raise UnusableTermError(
                f"{name} has no levels, or more than {MAX_LEVELS}: it cannot part the baseline"
            )
        code = np.where((code < 0) | (groups.code < 0), -1, code * len(groups.labels) + groups.code)
        labels = [", ".join(p for p in (a, b) if p) for a in labels for b in groups.labels]
    return Strata(code, tuple(labels))


def _cluster(table: Table, model: HazardsModel, place: IntArray) -> IntArray | None:
    """(n,) the subject of each row, where a column holds it."""
    if not isinstance(model.robust, ByColumn):
        return None
    column = table.column(model.robust.column)
    values = column.codes if isinstance(column, TextColumn) else column.values
    return np.asarray(np.unique(values[place], return_inverse=True)[1], dtype=np.int64)


def _effect(term: TermForm) -> Effect:
    return STEADY if term.changing is None else term.changing.effect


def _over_time(
    columns: Sequence[DesignColumn], terms: Sequence[Term], made: OverTime, unit: str
) -> list[DesignColumn]:
    """The columns with their effects: one a period, or one and its movement."""
    found, seen = list[DesignColumn](), dict[int, int]()
    for source in map(int, made.source):
        of = columns[source]
        nth = seen[source] = seen.get(source, -1) + 1
        found.append(_part(of, nth, terms[of.term], unit))
    return found


def _part(of: DesignColumn, nth: int, term: TermForm, unit: str) -> DesignColumn:
    change = term.changing
    if change is None:
        return of
    if isinstance(change, Periods):
        ends = [naming.plain(t) for t in sorted(set(change.ends))]
        when = (
            f"until {ends[0]} {unit}"
            if nth == 0
            else f"after {ends[-1]} {unit}"
            if nth == len(ends)
            else f"after {ends[nth - 1]}, until {ends[nth]} {unit}"
        )
    else:
        when = "at the mean of the events" if nth == 0 else f"change along {change.along}"
    return replace(
        of, label=f"{of.label}, {when}", named=f"{of.named}, {when}", part=nth, when=when
    )
