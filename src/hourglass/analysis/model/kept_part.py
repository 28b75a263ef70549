"""The part of Model that fits every kept model: a column each, with its ratios and what they rest on."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from hourglass.analysis.model.fitting import FittedModel
from hourglass.analysis.model.kept_models import kept_words, words_apart
from hourglass.analysis.model.many_models import KEPT, KeptNumbers
from hourglass.analysis.model.model_comparison import change, nested_test, no_criteria
from hourglass.analysis.model.readouts import CoefficientReadout
from hourglass.analysis.model.statement import KeptModel, ModelStatement
from hourglass.analysis.model.term_readouts import ReadModel, read_model
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell, number_cell, p_cell, whole, words
from hourglass.analysis.shared.curve_form import study_form
from hourglass.analysis.shared.declared import Statements, statement_of
from hourglass.analysis.shared.parts import DeferredSection
from hourglass.analysis.shared.result import PartResult
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import ContentBlock, Section, Table, Words, quiet
from hourglass.cohort.followup import Cohort

TITLE = "Kept models"
SHOWN = "shown"
"""What the column of the model that is shown is called while it is not kept."""
NONE = number_cell(formatting.BLANK, None)
Compared = tuple[str, str, str]
"""What a ratio compares: of which term, which of its levels or steps, and against what."""


class KeptModels(PartResult):
    """Every kept model beside the one shown."""


@dataclass(frozen=True, slots=True)
class _Column:
    """A model of the table: what its column is called, and its ratios by what they are of."""

    name: str
    kept: KeptModel | None
    read: ReadModel
    ratios: dict[Compared, CoefficientReadout]

    @property
    def fitted(self) -> FittedModel | None:
        return self.read.fitted


def kept_models(numbers: KeptNumbers, cohort: Cohort, statements: Statements) -> KeptModels:
    """A column a model: its ratios, then the rows, events and criteria, and a test where models nest."""
    statement, form = statement_of(statements, ModelStatement), study_form(statements)
    shown = read_model(cohort, statement.hazards_model, form, numbers.shown)
    if shown.fitted is None:
        return _section([quiet(f"There is no model yet: {shown.blank}.")])
    columns = [] if statement.current else [_column(SHOWN, None, shown)]
    for one in sorted(statement.kept, key=lambda kept: kept.letter):
        read = read_model(cohort, one.model, form, numbers.kept[one.letter])
        columns.append(_column(one.letter, one, read))
    base = next(one for one in columns if one.kept is statement.current)
    table = Table(
        label=TITLE,
        head=["", *(_head(one, statement) for one in columns)],
        keys=["reading", *(f"model_{one.name.lower()}" for one in columns)],
        rows=[*_ratio_rows(columns, base), *_fact_rows(columns, base, shown.fitted)],
    )
    return _section([table, *_words(columns, base, shown.fitted)])


def _section(blocks: list[ContentBlock]) -> KeptModels:
    section = Section(id=SectionId.KEPT, title=TITLE, place="main", blocks=blocks)
    return KeptModels(sections=[section])


def _column(name: str, kept: KeptModel | None, read: ReadModel) -> _Column:
    ratios = {(t.name, c.label, c.comparison): c for t in read.terms for c in t.coefficients}
    return _Column(name, kept, read, ratios)


def _head(column: _Column, statement: ModelStatement) -> str:
    """The letter of a kept model with what sets it apart from the others."""
    if column.kept is None:
        return column.name
    apart = words_apart(column.kept.model, [one.model for one in statement.kept])
    return f"{column.name}: {apart}"


def _named(compared: Compared) -> str:
    term, label, against = compared
    return f"{term} {against}" if label == term else f"{term} {label} {against}"


def _ratio_rows(columns: Sequence[_Column], base: _Column) -> list[list[Cell]]:
    """A row for each ratio that a model has, those of the model shown first."""
    order = [base, *(one for one in columns if one is not base)]
    rows = [
        [
            words(_named(of)),
            *(one.ratios[of].adjusted.cell() if of in one.ratios else NONE for one in columns),
        ]
        for of in dict.fromkeys(of for one in order for of in one.ratios)
    ]
    if not base.ratios or len(columns) < 2:
        return rows
    main = next(iter(base.ratios))
    moved = [words(f"change of {_named(main)}"), *(_change(one, base, main) for one in columns)]
    return [*rows, moved]


def _change(one: _Column, base: _Column, main: Compared) -> Cell:
    """How far the first ratio of the model shown lies from it in another."""
    if one is base or main not in one.ratios:
        return NONE
    there, here = (of.ratios[main].adjusted.ratio for of in (one, base))
    return words(change(there, here))


def _fact_rows(columns: Sequence[_Column], base: _Column, shown: FittedModel) -> list[list[Cell]]:
    def row(label: str, cell: Callable[[FittedModel], Cell]) -> list[Cell]:
        return [words(label), *(NONE if c.fitted is None else cell(c.fitted) for c in columns)]

    def criterion(of: str) -> Callable[[FittedModel], Cell]:
        return lambda fitted: _criterion(shown, fitted, of)

    rows = [
        row("rows", lambda fitted: whole(fitted.design.size)),
        row("events", lambda fitted: whole(fitted.fit.events)),
        row("−2ℓ", criterion("minus_two_log_likelihood")),
        row("AIC", criterion("aic")),
        row("BIC", criterion("bic")),
    ]
    tests = [_tested(one, base, shown) for one in columns]
    if any(cell is not NONE for cell in tests):
        against = "the model shown" if base.kept is None else base.name
        rows.append([words(f"p against {against}"), *tests])
    return rows


def _criterion(shown: FittedModel, fitted: FittedModel, of: str) -> Cell:
    if no_criteria(shown, fitted):
        return NONE
    value = float(getattr(fitted.fit, of))
    return number_cell(formatting.statistic(value), value)


def _tested(one: _Column, base: _Column, shown: FittedModel) -> Cell:
    """The test of the smaller of two models within the larger, where one holds the other."""
    if one is base or one.fitted is None or no_criteria(shown, one.fitted):
        return NONE
    test = nested_test(shown, one.fitted)
    if test is None or test.p is None:
        return NONE
    below = f"χ² {formatting.statistic(test.statistic)}, {test.df} df"
    return p_cell(test.p).model_copy(update={"below": below})


def _words(columns: Sequence[_Column], base: _Column, shown: FittedModel) -> list[ContentBlock]:
    """Which model each letter is, what could not be fitted, and what cannot be compared."""
    items = [f"{one.name}: {kept_words(one.kept)}" for one in columns if one.kept]
    missing = [f"{c.name}: {c.read.blank}." for c in columns if c.fitted is None]
    why = {
        one.name: no_criteria(shown, one.fitted)
        for one in columns
        if one is not base and one.fitted is not None
    }
    reasons = [f"No criterion or test of {name}: {one}." for name, one in why.items() if one]
    found: list[ContentBlock] = [Words(items=items)]
    if missing or reasons:
        found.append(quiet(" ".join([*missing, *reasons])))
    if not all(why.values()):
        test = "A p is that of the likelihood-ratio test of the smaller model within the larger."
        found.append(quiet(test))
    return found


PART = DeferredSection(key="kept", title=TITLE, result=KeptModels, numbers=KEPT, show=kept_models)
