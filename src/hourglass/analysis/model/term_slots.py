"""The slots of terms: each holds its column's form, and what can be made of it."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from pydantic import JsonValue

from hourglass.analysis.catalogue.time_functions import TIME_FUNCTIONS
from hourglass.analysis.model.number_facts import number_facts
from hourglass.analysis.model.statement import MAX_TERMS, ModelStatement
from hourglass.analysis.model.terms.changing import AlongFunction, Periods
from hourglass.analysis.model.terms.choices import ColumnFacts, FormChoice
from hourglass.analysis.model.terms.forms import OFFERED, Term, in_product
from hourglass.analysis.model.terms.product import ProductTerm
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.groups import group_by, levels_of
from hourglass.analysis.shared.sentence import Entry, Option, Slot, SmallShape
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import Column, NumberColumn

RARE = 10
"""A level with fewer events shows little."""


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
        options, entry = list[Option](), None
        if there and not term.of_terms:
            options, entry = self._of_column(table.column(term.column))
            options += self._partners() + self._changes()
        return Slot(
            id=f"term-{self.k}",
            label=term.steady.label,
            title=term.title,
            options=[*options, self._taken_out()],
            entry=entry,
            shape=self.shapes.get(term.column) if term.several else None,
        )

    def _taken_out(self) -> Option:
        """A term goes with the products that it is part of."""
        term = self.term
        rest = self.statement.without_term(self.k).terms
        return Option(
            label=f"Take {term.name} out",
            note="the model is fitted without it",
            field="terms",
            value=dumped(list(rest)),
        )

    def _put(self, choice: FormChoice) -> Option:
        """A form in the place of the one that the column has, its change over time kept."""
        kept = choice.term.model_copy(update={"changing": self.term.changing})
        return Option(
            label=choice.label,
            note=choice.note,
            field=f"terms.{self.k}",
            value=kept.model_dump(mode="json"),
            chosen=choice.term.same_form(self.term),
        )

    def _of_column(self, column: Column) -> tuple[list[Option], Entry | None]:
        term, numbers = self.term, None
        if isinstance(column, NumberColumn):
            numbers = number_facts(self.cohort, column)
        facts = ColumnFacts(column, levels_of(column), numbers)
        options = self._references(term) if term.against_reference else []
        for form in OFFERED:
            options += [self._put(one) for one in form.choices(facts, term)]
        typed = term.typed(facts) if numbers is not None or facts.levels else None
        if typed is None:
            return options, None
        field = f"terms.{self.k}.{typed.field}"
        return options, Entry(kind=typed.kind, field=field, label=typed.label, value=typed.value)

    def _references(self, term: Term) -> list[Option]:
        groups = group_by(self.cohort.table, term.column, term.reference_level)
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
                f"{formatting.count(int(rows[k]), 'rows')}, {formatting.count(int(events[k]), 'events')}"
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

    def _partners(self) -> list[Option]:
        """The other terms whose levels this one's ratio may differ by."""
        if len(self.statement.terms) >= MAX_TERMS:
            return []
        there = {frozenset(t.columns) for t in self.others if t.of_terms}
        options = []
        for other in self.others:
            pair = frozenset((self.term.column, other.column))
            alike = other.of_terms or other.column == self.term.column
            if alike or pair in there or self.term.changing or other.changing:
                continue
            product = ProductTerm(column=self.term.column, partner=other.column)
            options.append(
                Option(
                    label=f"Let its ratio differ by {other.column}",
                    note="adds the product of both, and gives the ratio within each",
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
            label=f"Let its ratio change at {formatting.stated_time(at, unit)}",
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
        written = ", ".join(formatting.plain(t) for t in ends)
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
