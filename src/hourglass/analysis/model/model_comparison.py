"""Two models side by side: their ratios aligned, the change of each, a test where one holds the other."""

from dataclasses import dataclass

import numpy as np

from hourglass.analysis.model.design import Design
from hourglass.analysis.model.fit_numbers import FitNumbers
from hourglass.analysis.model.fitting import FittedModel
from hourglass.analysis.model.kept_models import model_words
from hourglass.analysis.model.readouts import CoefficientReadout, TermReadout
from hourglass.analysis.model.statement import HazardsModel, KeptModel, ModelStatement
from hourglass.analysis.model.term_readouts import ReadModel, read_model
from hourglass.analysis.model.terms.forms import Term
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell, number_cell, words
from hourglass.analysis.shared.curve_form import CurveForm
from hourglass.analysis.shared.numbers import Refused
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import (
    Action,
    ContentBlock,
    Section,
    Table,
    Words,
    quiet,
    test_cells,
)
from hourglass.cohort.followup import Cohort
from hourglass.core.comparison.chi_squared import Test


@dataclass(frozen=True, slots=True)
class ComparedModel:
    """A kept model with its ratios by what they are called, or why there are none."""

    kept: KeptModel
    read: ReadModel

    @property
    def letter(self) -> str:
        return self.kept.letter

    @property
    def fitted(self) -> FittedModel | None:
        return self.read.fitted

    def ratio_of(self, term: str, c: CoefficientReadout) -> CoefficientReadout | None:
        """The ratio of the same comparison there."""
        return next(
            (
                other
                for t in self.read.terms
                if t.name == term
                for other in t.coefficients
                if (other.label, other.comparison) == (c.label, c.comparison)
            ),
            None,
        )


def beside_of(
    cohort: Cohort, statement: ModelStatement, form: CurveForm, known: FitNumbers | Refused | None
) -> ComparedModel | None:
    """The kept model that is set beside the one shown; None where none is."""
    one = statement.set_beside
    if one is None or known is None:
        return None
    return ComparedModel(one, read_model(cohort, one.model, form, known))


def change(now: float | None, other: float | None) -> str:
    """How far a ratio lies from that of the other model, in percent of it."""
    if not now or not other:
        return formatting.BLANK
    share = now / other - 1
    return f"{formatting.points(share)}%"


def beside_section(
    statement: ModelStatement, fitted: FittedModel, terms: list[TermReadout], other: ComparedModel
) -> Section:
    """What became of the main ratio, the nested test, and criteria on the same rows."""
    title = f"Beside model {other.letter}"
    if other.fitted is None:
        return Section(
            id=SectionId.BESIDE,
            title=title,
            blocks=[Words(text=f"There is no such model: {other.read.blank}.")],
        )
    blocks: list[ContentBlock] = [
        quiet(f"{other.letter}: {model_words(other.kept.model)}."),
        *_main_ratio(terms, other),
    ]
    if not same_rows(fitted.design, other.fitted.design):
        blocks += _other_rows(statement, fitted.design, other)
        return Section(id=SectionId.BESIDE, title=title, blocks=blocks)
    why = no_criteria(fitted, other.fitted)
    if why:
        blocks.append(Words(text=f"−2ℓ, AIC and BIC are not compared: {why}."))
    else:
        blocks.append(_criteria(fitted, other))
    blocks += _nested(fitted, other)
    return Section(id=SectionId.BESIDE, title=title, blocks=blocks)


def same_rows(a: Design, b: Design) -> bool:
    """Whether two models are of the same rows and the same event."""
    return a.event == b.event and np.array_equal(np.unique(a.place), np.unique(b.place))


def no_criteria(a: FittedModel, b: FittedModel) -> str:
    """Why the likelihoods of two models are not on one scale; blank where they are."""
    if not same_rows(a.design, b.design):
        return "the models are of other rows, or another event"
    for there, why in (
        (a.model.ties != b.model.ties, "the models handle ties in different ways"),
        (a.model.penalised or b.model.penalised, "a likelihood is penalised"),
        (
            set(a.model.strata) != set(b.model.strata),
            "the models are stratified differently, so each likelihood compares other rows",
        ),
    ):
        if there:
            return why
    return ""


def _main_ratio(terms: list[TermReadout], other: ComparedModel) -> list[ContentBlock]:
    """The first term's first ratio here and there."""
    main = next((c for t in terms[:1] for c in t.coefficients[:1]), None)
    if main is None:
        return []
    there = other.ratio_of(terms[0].name, main)
    if there is None:
        return [
            quiet(
                f"{terms[0].name} is expressed otherwise there, so its ratios are not set against each other."
            )
        ]
    now, then = main.adjusted, there.adjusted
    name = f"{terms[0].name} {main.label}" if terms[0].headed else terms[0].name
    here, there_ = formatting.ratios(now.ratio, then.ratio)
    return [
        Words(
            text=f"Ratio of {name}, {main.comparison}: {here} here, "
            f"{there_} in {other.letter} ({change(now.ratio, then.ratio)})."
        )
    ]


def _criteria(fitted: FittedModel, other: ComparedModel) -> Table:
    assert other.fitted is not None
    rows = []
    pairs = (
        ("−2ℓ", "minus_two_log_likelihood"), ("AIC", "aic"), ("BIC", "bic"),
    )  # fmt: skip
    for name, of in pairs:
        values = [float(getattr(one.fit, of)) for one in (fitted, other.fitted)]
        cells: list[Cell] = [number_cell(formatting.statistic(v), v) for v in values]
        rows.append([words(name), *cells])
    return Table(
        label="Criteria on the same rows",
        head=["", "here", other.letter],
        keys=["what", "here", "beside"],
        rows=rows,
    )


def _nested(fitted: FittedModel, other: ComparedModel) -> list[ContentBlock]:
    """The likelihood ratio test, where the columns of one model are among those of the other."""
    assert other.fitted is not None
    test = nested_test(fitted, other.fitted)
    if test is None:
        return [
            quiet("Neither model holds the other, so there is no test of one against the other.")
        ]
    head = ["", "χ²", "df", "p"]
    name = words("Nested test")
    return [
        Table(
            label="Nested test",
            head=head,
            keys=["test", "chi_squared", "df", "p"],
            rows=[test_cells(name, test.statistic, test.df, test.p)],
        )
    ]


def nested_test(one: FittedModel, other: FittedModel) -> Test | None:
    """The likelihood ratio test of the smaller of two models; None where the larger does not hold it."""
    small, large = sorted((one, other), key=lambda model: model.plain.estimated)
    return large.plain.against(small.plain) if _holds(large, small) else None


def _holds(large: FittedModel, small: FittedModel) -> bool:
    """Whether every term of one model is in the other, both fitted alike."""
    a, b = large.model, small.model
    alike = all(
        getattr(a, name) == getattr(b, name) for name in ("strata", "ties", "penalised", "cause")
    )
    terms = all(_within(term, a) for term in b.terms)
    return alike and not a.penalised and terms and large.plain.estimated > small.plain.estimated


def _within(term: Term, model: HazardsModel) -> bool:
    """Whether a term is there, or there in a form of which it is a special case."""
    for other in model.terms:
        if term in (other, other.steady):
            return True
        if term.changing is None and other.column == term.column and other.holds(term):
            return True
    return False


def _other_rows(statement: ModelStatement, own: Design, other: ComparedModel) -> list[ContentBlock]:
    assert other.fitted is not None
    rows = [formatting.count(d.size, "rows") for d in (own, other.fitted.design)]
    words = (
        f"The models rest on other rows ({rows[0]} here, {rows[1]} in {other.letter}): criteria and tests "
        "would compare rows, not models."
    )
    common = common_rows(statement, other)
    return [
        Words(text=words),
        Action(
            sentence="Fit both on the rows that have a value for all their columns.",
            label="Fit both on their common rows",
            do="state",
            stage="model",
            statement=common.model_dump(mode="json"),
        ),
    ]


def common_rows(statement: ModelStatement, other: ComparedModel) -> ModelStatement:
    """Both models on the rows that have all columns of both; the other one under one more letter."""
    models = (statement.hazards_model, other.kept.model)
    needed = {n for m in models for n in (*m.term_columns, *m.strata, *m.rows_with)}
    left_out = tuple(sorted({*statement.left_out, *other.kept.model.left_out}))
    update = {"rows_with": tuple(sorted(needed)), "left_out": left_out}
    there = other.kept.model.model_copy(update=update)
    kept = statement.with_kept(there, f"{other.letter} on common rows")
    letter = next((k.letter for k in kept.kept if k.model == there), "")
    here = statement.hazards_model.model_copy(update=update)
    return kept.showing(here).model_copy(update={"beside": letter})
