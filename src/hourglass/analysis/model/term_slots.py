"""The slots of terms: each holds its column's form, and what can be made of it."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from pydantic import JsonValue

from hourglass.analysis.catalogue.time_functions import TIME_FUNCTIONS
from hourglass.analysis.model.number_facts import number_facts
from hourglass.analysis.model.statement import MOST_TERMS, ModelStatement
from hourglass.analysis.model.terms.form import AlongFunction, Periods
from hourglass.analysis.model.terms.forms import (
    CategoryTerm,
    CurvedTerm,
    DoublingTerm,
    NumberTerm,
    PolynomialTerm,
    ProductTerm,
    SplineTerm,
    Term,
    TrendTerm,
    in_product,
)
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.groups import group_by, levels_of
from hourglass.analysis.shared.sentence import Entry, Option, Slot, SmallShape
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import Column, NumberColumn
from hourglass.core.regression.terms import KNOT_SHARES

RARE = 10
"""A level with fewer events tells little."""


def dumped(terms: list[Term]) -> JsonValue:
    """Terms as a statement holds them."""
    return [term.model_dump(mode="json") for term in terms]


@dataclass(frozen=True, slots=True)
class TermSlots:
    """The slots of one term of a statement."""

    cohort: Cohort
    statement: ModelStatement
    k: int
    shapes: Mapping[str, SmallShape]
    middle: float

    @property
    def term(self) -> Term:
        return self.statement.terms[self.k]

    @property
    def others(self) -> list[Term]:
        return [t for n, t in enumerate(self.statement.terms) if n != self.k]

    def slots(self) -> list[str | Slot]:
        """The term, and how its ratio changes where it does."""
        found: list[str | Slot] = [self._form()]
        if self.term.changing is not None:
            found += [", its ratio ", self._changing()]
        return found

    def _form(self) -> Slot:
        term, table = self.term, self.cohort.table
        there = all(table.has(name) for name in term.columns)
        steady = term.model_copy(update={"changing": None})
        options, entry = list[Option](), None
        if there and not isinstance(term, ProductTerm):
            options, entry = self._of_column(table.column(term.column))
            options += self._partners() + self._changes()
        return Slot(
            id=f"term-{self.k}",
            label=steady.label,
            title=self._title(),
            options=[*options, self._taken_out()],
            entry=entry,
            shape=self.shapes.get(term.column) if isinstance(term, CurvedTerm) else None,
        )

    def _title(self) -> str:
        term = self.term
        if isinstance(term, CategoryTerm):
            return f"{term.column}: reference level"
        if isinstance(term, ProductTerm):
            return f"{term.label}: the ratio of one within the other"
        if isinstance(term, CurvedTerm):
            return f"{term.column}: form of the curve"
        return f"{term.column}: ratio told per"

    def _taken_out(self) -> Option:
        """A term goes with the products that it is part of."""
        term = self.term
        rest = self.statement.without_term(self.k).terms
        name = term.label if isinstance(term, ProductTerm) else term.column
        return Option(
            label=f"Take {name} out",
            note="the model is fitted without it",
            field="terms",
            value=dumped(list(rest)),
        )

    def _put(self, label: str, term: Term, note: str = "", *, chosen: bool = False) -> Option:
        kept = term.model_copy(update={"changing": self.term.changing})
        return Option(
            label=label,
            note=note,
            field=f"terms.{self.k}",
            value=kept.model_dump(mode="json"),
            chosen=chosen,
        )

    def _of_column(self, column: Column) -> tuple[list[Option], Entry | None]:
        term, options = self.term, list[Option]()
        if isinstance(term, CategoryTerm):
            options += self._references(term)
        if levels_of(column) and not isinstance(column, NumberColumn):
            trend = isinstance(term, TrendTerm)
            several = len(levels_of(column)) > 2
            if several or trend:
                note = "one ratio for every step from level to level, in their order"
                options.append(
                    self._put(
                        "In order, per level", TrendTerm(column=column.name), note, chosen=trend
                    )
                )
            if trend:
                options.append(
                    self._put(
                        "Level by level",
                        CategoryTerm(column=column.name),
                        "a ratio for each against the reference",
                    )
                )
            return options, self._scores(column) if trend else None
        if not isinstance(column, NumberColumn):
            return options, None
        if isinstance(term, CategoryTerm):
            options.append(
                self._put(
                    f"Take {column.name} as a number",
                    NumberTerm(column=column.name),
                    "one ratio for every 1 more",
                )
            )
            return options, None
        options += self._units(column) + self._curves(column)
        if levels_of(column):
            listed = wording.listed(list(levels_of(column)))
            options.append(
                self._put(
                    f"Take {column.name} as a category", CategoryTerm(column=column.name), listed
                )
            )
        return options, self._entry()

    def _references(self, term: CategoryTerm) -> list[Option]:
        groups = group_by(self.cohort.table, term.column, term.reference)
        data = self.cohort.follow_up
        known = groups.code >= 0
        rows = np.bincount(groups.code[known], weights=data.count[known])
        happened = known & data.event()
        events = np.bincount(
            groups.code[happened], weights=data.count[happened], minlength=len(groups.labels)
        )
        found = {}
        for k, level in enumerate(groups.labels):
            rare = f"; rare: fewer than {RARE} events" if events[k] < RARE else ""
            note = (
                f"{wording.count(int(rows[k]), 'rows')}, {wording.count(int(events[k]), 'events')}"
                f"{rare}; the other levels are compared with it"
            )
            found[level] = Option(
                label=level,
                note=note,
                field=f"terms.{self.k}.reference",
                value=level,
                chosen=k == 0,
            )
        return [found[level] for level in levels_of(self.cohort.table.column(term.column))]

    def _scores(self, column: Column) -> Entry:
        levels = levels_of(column)
        own = self.term.scores if isinstance(self.term, TrendTerm) else ()
        scores = own or tuple(float(k) for k in range(len(levels)))
        return Entry(
            kind="scores",
            field=f"terms.{self.k}.scores",
            label=f"Scores of {', '.join(levels)}",
            value=", ".join(wording.plain(v) for v in scores),
        )

    def _units(self, column: NumberColumn) -> list[Option]:
        term = self.term
        unit = term.unit if isinstance(term, NumberTerm) else None
        facts = number_facts(self.cohort, column)
        options = [
            self._put(
                f"per {wording.plain(value)}",
                NumberTerm(column=column.name, unit=value),
                chosen=value == unit,
            )
            for value in sorted({1.0, facts.unit, 5 * facts.unit, 10 * facts.unit})
        ]
        if facts.positive:
            doubling = DoublingTerm(column=column.name)
            note = "the number enters on the log scale"
            chosen = isinstance(term, DoublingTerm)
            options.append(self._put("per doubling", doubling, note, chosen=chosen))
        return options

    def _curves(self, column: NumberColumn) -> list[Option]:
        """Curves with as many knots, or powers, as the number has values for."""
        term, facts = self.term, number_facts(self.cohort, column)
        reference = term.reference if isinstance(term, CurvedTerm) else None
        options = list[Option]()
        if not facts.at_share:
            return options
        for knots, shares in KNOT_SHARES.items():
            at = sorted({facts.at_share[share] for share in shares})
            if len(at) < knots:
                continue
            spline = SplineTerm(column=column.name, knots=knots, reference=reference)
            chosen = isinstance(term, SplineTerm) and not term.at_values and term.knots == knots
            listed = wording.listed([column.written(v) for v in at])
            note = f"a smooth curve, straight outside; knots at {listed}"
            options.append(self._put(f"as a spline of {knots} knots", spline, note, chosen=chosen))
        for degree, word in ((2, "quadratic"), (3, "cubic")):
            if facts.distinct > degree:
                curve = PolynomialTerm(column=column.name, degree=degree, reference=reference)
                chosen = isinstance(term, PolynomialTerm) and term.degree == degree
                options.append(self._put(f"as a {word} curve", curve, "its powers", chosen=chosen))
        return options

    def _entry(self) -> Entry | None:
        term = self.term
        if isinstance(term, NumberTerm):
            return Entry(
                kind="number",
                field=f"terms.{self.k}.unit",
                label="Another unit",
                value=wording.plain(term.unit),
            )
        if isinstance(term, CurvedTerm):
            return Entry(
                kind="number",
                field=f"terms.{self.k}.reference",
                label="Value that others are compared with",
                value="" if term.reference is None else wording.plain(term.reference),
            )
        return None

    def _partners(self) -> list[Option]:
        """The other terms whose levels this one's ratio may differ by."""
        if len(self.statement.terms) >= MOST_TERMS:
            return []
        there = {frozenset(t.columns) for t in self.others if isinstance(t, ProductTerm)}
        options = []
        for other in self.others:
            pair = frozenset((self.term.column, other.column))
            alike = isinstance(other, ProductTerm) or other.column == self.term.column
            if alike or pair in there or self.term.changing or other.changing:
                continue
            product = ProductTerm(column=self.term.column, partner=other.column)
            options.append(
                Option(
                    label=f"Let its ratio differ by {other.column}",
                    note="adds the product of both, and tells the ratio within each",
                    field="terms",
                    value=product.model_dump(mode="json"),
                    adds=True,
                )
            )
        return options

    def _changes(self) -> list[Option]:
        """Ways in which the ratio may change over time, where it does not yet."""
        if self.term.changing is not None or in_product(self.others, self.term.column):
            return []
        at = self.middle
        unit = self.cohort.statement.unit
        if at <= 0:
            return []
        periods = Option(
            label=f"Let its ratio change at {wording.plain(at)} {unit}",
            note="a ratio of its own before and after",
            field=f"terms.{self.k}.changing",
            value=Periods(ends=(at,)).model_dump(mode="json"),
        )
        along = [
            Option(
                label=f"Let its ratio change along {function.along}",
                note="a ratio that moves steadily",
                field=f"terms.{self.k}.changing",
                value=AlongFunction(function=key).model_dump(mode="json"),
            )
            for key, function in TIME_FUNCTIONS.items()
        ]
        return [periods, *along]

    def _changing(self) -> Slot:
        change = self.term.changing
        assert change is not None
        field = f"terms.{self.k}.changing"
        options = [
            Option(label="the same throughout", note="one ratio", field=field, value=None),
            *(
                Option(
                    label=f"changing along {function.along}",
                    field=field,
                    value=AlongFunction(function=key).model_dump(mode="json"),
                    chosen=isinstance(change, AlongFunction) and change.function == key,
                )
                for key, function in TIME_FUNCTIONS.items()
            ),
        ]
        ends = change.ends if isinstance(change, Periods) else (self.middle,)
        written = ", ".join(wording.plain(t) for t in ends)
        if not isinstance(change, Periods):
            options.append(
                Option(
                    label=f"changing at {written}",
                    field=field,
                    value=Periods(ends=ends).model_dump(mode="json"),
                )
            )
        entry = None
        if isinstance(change, Periods):
            label = f"Times at which it changes, in {self.cohort.statement.unit}"
            entry = Entry(kind="times", field=f"{field}.ends", label=label, value=written)
        unit = f" {self.cohort.statement.unit}" if isinstance(change, Periods) else ""
        return Slot(
            id=f"term-{self.k}-changing",
            label=f"{change.label}{unit}",
            title=f"{self.term.column}: its ratio over time",
            options=options,
            entry=entry,
        )
