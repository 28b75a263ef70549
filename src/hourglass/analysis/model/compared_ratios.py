"""Which ratios are shown of each term, as weights on the coefficients: a level against the reference, a
unit more, one value of a curve against another, each within a period or a level of another term."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import partial

import numpy as np

from hourglass.analysis.model.design import Design
from hourglass.analysis.model.terms.changing import Periods
from hourglass.analysis.model.terms.compared import Compared, Seen, Setting, column_words
from hourglass.analysis.shared import formatting
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import NumberColumn
from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.sample_quantiles import sample_quantiles

QUARTILES = np.array([0.25, 0.5, 0.75])


@dataclass(frozen=True, slots=True)
class ComparedRatio:
    """A ratio that is shown: exp(``weights`` · β), β the (p,) coefficients."""

    term: int
    compared: Compared
    weights: FloatArray

    @property
    def column(self) -> int | None:
        """The one coefficient that it is, or is a multiple of, where it is one."""
        there = np.flatnonzero(self.weights)
        return int(there[0]) if there.size == 1 and self.weights[there[0]] > 0 else None

    @property
    def label(self) -> str:
        """What it is called beside its term's name."""
        of = self.compared
        return f"{of.label}, {of.within}" if of.within and of.label else of.label or of.within


def compared_ratios(cohort: Cohort, coded: Design, term: int) -> list[ComparedRatio]:
    """The ratios of a term, in order."""
    of = coded.stated_terms[term]
    if of.of_terms:
        return _of_product(cohort, coded, term)
    usual = _usual_partners(cohort, coded, term)
    found = []
    for one in of.compared(_seen(cohort, coded, term)):
        for within, factor in _moments(cohort, coded, term):
            label = "" if within and one.label == of.column else one.label
            weights = _weights(coded, term, one, factor)
            shown = replace(one, label=label, within=within)
            if usual:
                held = f"within {formatting.listed([partner.setting.within for partner in usual])}"
                shown = replace(one, within=held)
                for partner in usual:
                    partner.add_to(weights, one.values)
            found.append(ComparedRatio(term, shown, weights))
    return found


@dataclass(frozen=True, slots=True)
class _UsualPartner:
    """A term that changes another's ratio, held at its reference level or its median.

    ``positions`` are those of the product's columns; ``first`` states whether the other term is the
    first of the product.
    """

    setting: Setting
    positions: IntArray
    first: bool

    def add_to(self, weights: FloatArray, values: FloatArray) -> None:
        """What the product adds to the weights of a comparison with ``values`` (k,)."""
        own = self.setting.values
        pair = (values, own) if self.first else (own, values)
        weights[self.positions] = np.outer(*pair).ravel()


def _usual_partners(cohort: Cohort, coded: Design, term: int) -> list[_UsualPartner]:
    """The partners of a term's products: its own ratio holds at one value of theirs alone."""
    column = coded.stated_terms[term].column
    found = []
    for k, of in enumerate(coded.stated_terms):
        if not of.of_terms or column not in of.columns:
            continue
        first = of.column == column
        partner = coded.place_of(of.columns[1 if first else 0])
        form = coded.stated_terms[partner]
        usual = form.usual_setting(form.settings(_seen(cohort, coded, partner)))
        found.append(_UsualPartner(usual, coded.of_term(k), first))
    return found


def reference_value(cohort: Cohort, coded: Design, term: int) -> float:
    """The value that a curve is read against: as stated, else the median of the rows that are used."""
    stated = coded.stated_terms[term].reference_value
    return float(_quartiles(cohort, coded, term)[1]) if stated is None else stated


def used_values(cohort: Cohort, coded: Design, term: int) -> tuple[FloatArray, FloatArray]:
    """The distinct rows' values (m,) of a number in the rows that are fitted, and their counts (m,)."""
    column = cohort.table.column(coded.stated_terms[term].column)
    assert isinstance(column, NumberColumn)
    rows = np.unique(coded.place)
    return column.values[rows], cohort.follow_up.count[rows].astype(np.float64)


def _quartiles(cohort: Cohort, coded: Design, term: int) -> FloatArray:
    values, count = used_values(cohort, coded, term)
    return sample_quantiles(values, count.astype(np.int64), QUARTILES)


def _weights(coded: Design, term: int, one: Compared, factor: FloatArray) -> FloatArray:
    """Weights on all coefficients: the values of the term's columns times the factors of each part."""
    weights = np.zeros(len(coded.columns))
    positions = coded.of_term(term)
    first = coded.columns[positions[0]].value
    for k in map(int, positions):
        column = coded.columns[k]
        weights[k] = one.values[column.value - first] * factor[column.part]
    return weights


def _moments(cohort: Cohort, coded: Design, term: int) -> Iterator[tuple[str, FloatArray]]:
    """When a ratio holds, and the factors of its parts then."""
    change = coded.stated_terms[term].changing
    if change is None or coded.over_time is None:
        yield "", np.ones(1)
        return
    positions = coded.of_term(term)
    if isinstance(change, Periods):
        parts = max(coded.columns[k].part for k in positions) + 1
        named = {coded.columns[k].part: coded.columns[k].when for k in positions}
        for part in range(parts):
            yield named[part], np.eye(parts)[part]
        return
    own = [k for k in positions if coded.columns[k].value == coded.columns[positions[0]].value]
    happened = coded.data.event()
    times = sample_quantiles(
        coded.data.exit[happened], coded.data.count[happened], np.array([0.25, 0.75])
    )
    different = np.unique(times)
    shown = formatting.times_apart(different.tolist(), cohort.decimals)
    for t, words in zip(different, shown, strict=True):
        at = f"at {words} {cohort.statement.unit}"
        yield at, coded.over_time.at(np.array([t]))[0, own]


def axis_words(cohort: Cohort, name: str) -> str:
    """What a column is called along an axis, with its unit."""
    unit = cohort.table.column(name).unit
    return f"{column_words(cohort.table, name)}{f' ({unit})' if unit else ''}"


def _of_product(cohort: Cohort, coded: Design, term: int) -> list[ComparedRatio]:
    """The first term's ratios within each level, or at the quartiles, of the second."""
    main, partner = (coded.place_of(name) for name in coded.stated_terms[term].columns)
    own = coded.of_term(term)
    others = [u for u in _usual_partners(cohort, coded, main) if u.positions[0] != own[0]]
    found = []
    for one in coded.stated_terms[main].compared(_seen(cohort, coded, main)):
        for setting in coded.stated_terms[partner].settings(_seen(cohort, coded, partner)):
            weights = _weights(coded, main, one, np.ones(1))
            weights[own] = np.outer(one.values, setting.values).ravel()
            for other in others:
                other.add_to(weights, one.values)
            within = formatting.listed(
                [setting.within, *(other.setting.within for other in others)]
            )
            compared = replace(one, within=f"within {within}")
            found.append(ComparedRatio(term, compared, weights))
    return found


def _seen(cohort: Cohort, coded: Design, term: int) -> Seen:
    """A term as its form reads it."""
    return Seen(cohort.table, coded.blocks[term], partial(_quartiles, cohort, coded, term))
