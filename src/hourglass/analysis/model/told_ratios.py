"""Which ratios are told of each term, as weights on the coefficients: a level against the reference, a
unit more, one value of a curve against another, each within a period or a level of another term."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from hourglass.analysis.model.design import Design
from hourglass.analysis.model.terms.form import Periods, TermForm
from hourglass.analysis.model.terms.forms import (
    CategoryTerm,
    CurvedTerm,
    DoublingTerm,
    NumberTerm,
    ProductTerm,
    TrendTerm,
)
from hourglass.analysis.model.terms.values import values_at
from hourglass.analysis.shared import wording
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import NumberColumn
from hourglass.core.arrays import FloatArray, IntArray
from hourglass.core.sample_quantiles import sample_quantiles

QUARTILES = np.array([0.25, 0.5, 0.75])


@dataclass(frozen=True, slots=True, kw_only=True)
class Compared:
    """One comparison of values of a term.

    Attributes:
        label, against, told: as a row of the table says it.
        sentence: what it says, with "{rows}", "{event}" and "{times}" to be put in.
        values: (k,) the difference of the term's columns.
        within: what it holds within: a period, or a level of another term.
    """

    label: str
    against: str
    told: str
    sentence: str
    values: FloatArray
    within: str = ""


@dataclass(frozen=True, slots=True)
class ToldRatio:
    """A ratio that is told: exp(``weights`` · β), β the (p,) coefficients."""

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


def told_ratios(cohort: Cohort, coded: Design, term: int) -> list[ToldRatio]:
    """The ratios of a term, in order."""
    of = coded.asked[term]
    if isinstance(of, ProductTerm):
        return _of_product(cohort, coded, term, of)
    usual = _usual_partners(cohort, coded, term)
    found = []
    for one in _compared(cohort, coded, term):
        for within, factor in _moments(cohort, coded, term):
            label = "" if within and one.label == of.column else one.label
            weights = _weights(coded, term, one, factor)
            told = replace(one, label=label, within=within)
            if usual:
                held = f"within {wording.listed([partner.within for partner in usual])}"
                told = replace(one, within=held, sentence=f"{_braced(held)}, {one.sentence}")
                for partner in usual:
                    partner.add_to(weights, one.values)
            found.append(ToldRatio(term, told, weights))
    return found


@dataclass(frozen=True, slots=True)
class _UsualPartner:
    """A term that changes another's ratio, held at its reference level or its median.

    ``positions`` are those of the product's columns, ``setting`` (m,) the partner's; ``first`` says
    whether the other term is the first of the product.
    """

    within: str
    positions: IntArray
    setting: FloatArray
    first: bool

    def add_to(self, weights: FloatArray, values: FloatArray) -> None:
        """What the product adds to the weights of a comparison with ``values`` (k,)."""
        pair = (values, self.setting) if self.first else (self.setting, values)
        weights[self.positions] = np.outer(*pair).ravel()


def _usual_partners(cohort: Cohort, coded: Design, term: int) -> list[_UsualPartner]:
    """The partners of a term's products: its own ratio holds at one value of theirs alone."""
    column = coded.asked[term].column
    found = []
    for k, of in enumerate(coded.asked):
        if not isinstance(of, ProductTerm) or column not in of.columns:
            continue
        first = of.column == column
        partner = coded.place_of(of.partner if first else of.column)
        settings = _settings(cohort, coded, partner)
        category = isinstance(coded.asked[partner], CategoryTerm)
        within, setting = settings[0 if category else len(settings) // 2]
        found.append(_UsualPartner(within, coded.of_term(k), setting, first))
    return found


def reference_value(cohort: Cohort, coded: Design, term: int) -> float:
    """The value that a curve is read against: as stated, else the median of the rows that are used."""
    of = coded.asked[term]
    stated = of.reference if isinstance(of, CurvedTerm) else None
    return float(_quartiles(cohort, coded, term)[1]) if stated is None else stated


def used_values(cohort: Cohort, coded: Design, term: int) -> tuple[FloatArray, FloatArray]:
    """The distinct rows' values (m,) of a number in the rows that are fitted, and their counts (m,)."""
    column = cohort.table.column(coded.asked[term].column)
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
    change = coded.asked[term].changing
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
    for t in np.unique(times):
        at = f"at {wording.time(float(t), cohort.decimals)} {cohort.statement.unit}"
        yield at, coded.over_time.at(np.array([t]))[0, own]


def _compared(cohort: Cohort, coded: Design, term: int) -> list[Compared]:
    """The comparisons of a term's values."""
    of, block = coded.asked[term], coded.blocks[term]
    if isinstance(of, CurvedTerm):
        return _of_curve(cohort, coded, term, of)
    unit = np.eye(len(block.names))
    if isinstance(of, CategoryTerm):
        return [
            Compared(
                label=name.label, against=name.against, told=name.told,
                sentence=f"{{rows}} with {_braced(name.named)} come to {{event}} at {{times}} times the rate "
                f"of those with {_braced(name.against)}",
                values=values,
            )
            for name, values in zip(block.names, unit, strict=True)
        ]  # fmt: skip
    name = block.names[0]
    per = _braced(_for_every(cohort, of))
    told = of.unit_label or name.told
    return [
        Compared(
            label=name.label,
            against=told,
            told=told,
            sentence=f"{{event}} comes at {{times}} times the rate {per}",
            values=unit[0] * unit_of(of),
        )
    ]  # fmt: skip


def unit_of(term: TermForm) -> float:
    """So many of its coefficient make the ratio of a term that has one: a number's is per a unit."""
    return term.unit if isinstance(term, NumberTerm) else 1.0


def _for_every(cohort: Cohort, term: TermForm) -> str:
    """Per what a number's ratio is, in the words of its column."""
    named = column_words(cohort, term.column)
    if isinstance(term, DoublingTerm):
        return f"for every doubling of {named}"
    if isinstance(term, TrendTerm):
        return f"for every {'unit of score' if term.scores else 'level'} more of {named}"
    assert isinstance(term, NumberTerm)
    unit = cohort.table.column(term.column).unit
    return f"for every {wording.plain(term.unit)}{f' {unit}' if unit else ''} more of {named}"


def column_words(cohort: Cohort, name: str) -> str:
    """What a column is called: its label, where it has one."""
    return cohort.table.column(name).label or name


def axis_words(cohort: Cohort, name: str) -> str:
    """What a column is called along an axis, with its unit."""
    unit = cohort.table.column(name).unit
    return f"{column_words(cohort, name)}{f' ({unit})' if unit else ''}"


def _of_curve(cohort: Cohort, coded: Design, term: int, of: CurvedTerm) -> list[Compared]:
    """The upper quartile against the lower, and each of both against a stated reference."""
    block = coded.blocks[term]
    low, _, high = _quartiles(cohort, coded, term)
    pairs = [(high, low)]
    if of.reference is not None:
        pairs = [(v, of.reference) for v in (low, high) if v != of.reference]
    column = cohort.table.column(of.column)
    assert isinstance(column, NumberColumn)
    unit = f" {column.unit}" if column.unit else ""
    named = _braced(column_words(cohort, of.column))
    found = []
    for value, against in pairs:
        if value == against:
            continue
        at, other = column.written(float(value)), column.written(float(against))
        difference = of.at(np.array([value, against]), block)
        found.append(
            Compared(
                label=f"{at}{unit}", against=f"{other}{unit}", told=f"{at} against {other}",
                sentence=f"{{rows}} with {named} {at}{unit} come to {{event}} at {{times}} times the rate of "
                f"those with {other}{unit}",
                values=difference[0] - difference[1],
            )
        )  # fmt: skip
    return found


def _of_product(cohort: Cohort, coded: Design, term: int, of: ProductTerm) -> list[ToldRatio]:
    """The first term's ratios within each level, or at the quartiles, of the second."""
    main, partner = coded.place_of(of.column), coded.place_of(of.partner)
    own = coded.of_term(term)
    others = [u for u in _usual_partners(cohort, coded, main) if u.positions[0] != own[0]]
    found = []
    for one in _compared(cohort, coded, main):
        for level, setting in _settings(cohort, coded, partner):
            weights = _weights(coded, main, one, np.ones(1))
            weights[own] = np.outer(one.values, setting).ravel()
            for other in others:
                other.add_to(weights, one.values)
            within = wording.listed([level, *(other.within for other in others)])
            sentence = f"within {_braced(within)}, {one.sentence}"
            compared = replace(one, within=f"within {within}", sentence=sentence)
            found.append(ToldRatio(term, compared, weights))
    return found


def _settings(cohort: Cohort, coded: Design, term: int) -> list[tuple[str, FloatArray]]:
    """The levels of a category, or the quartiles of a number: in words, and as its columns (k,)."""
    of, block = coded.asked[term], coded.blocks[term]
    if isinstance(of, CategoryTerm):
        levels = [name.named for name in block.names]
        reference = block.names[0].against
        numbers = isinstance(cohort.table.column(of.column), NumberColumn)
        first = reference if numbers else f"{of.column} {reference}"
        return [(first, np.zeros(len(levels))), *zip(levels, np.eye(len(levels)), strict=True)]
    if isinstance(of, TrendTerm):
        known = np.unique(block.x[np.isfinite(block.x)])
        return [(f"{of.column} at score {wording.plain(float(v))}", np.array([v])) for v in known]
    column = cohort.table.column(of.column)
    assert isinstance(column, NumberColumn)
    found = []
    for value in np.unique(_quartiles(cohort, coded, term)):
        within = f"{of.column} {column.written(float(value))}"
        found.append((within, values_at(of, block, np.array([value]))[0]))
    return found


def _braced(words: str) -> str:
    """Words of the data, safe in a sentence that more is put into."""
    return words.replace("{", "{{").replace("}", "}}")


def said_of(told: ToldRatio, event: str, rows_are: str, times: str) -> str:
    """What a ratio says, from its first word on."""
    sentence = told.compared.sentence.format(rows=rows_are, event=event, times=times)
    within = told.compared.within
    at_any = "at any moment" if not within or within.startswith("within ") else within
    said = f"{at_any}, {sentence}"
    return wording.capital(said)
