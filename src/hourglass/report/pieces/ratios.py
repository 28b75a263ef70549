"""Hazard ratios, unadjusted and adjusted."""

from collections.abc import Callable
from dataclasses import dataclass

from hourglass.analysis.catalogue.ties import TIE_METHODS
from hourglass.analysis.model.parts import Ranking
from hourglass.analysis.model.readouts import ChiSquared, CoefficientReadout, RatioReadout
from hourglass.analysis.model.result import ModelResult
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import number_cell, p_cell
from hourglass.report.inputs import ReportInputs
from hourglass.report.pieces.cited import paragraph
from hourglass.report.pieces.piece import Piece, Printed
from hourglass.report.tables import Column, ReportTable, notes_beside, table_of

MAX_WORDED = 5
"""Ratios that the text names; of more it names the first."""


def _ratios(found: ReportInputs) -> Printed:
    model = found.result("model", ModelResult)
    if model is None:
        return Printed()
    if model.blank is not None:
        return Printed(paragraphs=(paragraph(model.blank),))
    ranking = found.result("model/ranking", Ranking)
    tests = "; ".join(_test(test) for test in model.tests if test.p is not None)
    return Printed(
        paragraphs=(paragraph(model_words(model, ranking)),),
        tables=(ratio_table(model),),
        note=f"{tests}. {TIE_METHODS[model.ties].printed}.",
    )


def _test(test: ChiSquared) -> str:
    return formatting.tested(test.name, test.statistic, test.df, test.p)


def model_words(model: ModelResult, ranking: Ranking | None) -> str:
    """The ratios in words, the rows and events, and concordance."""
    cohort = model.cohort
    rows = cohort.rows_are if cohort.rows == cohort.subjects else "rows"
    left = "; ".join(
        f"{formatting.grouped(o.rows)} {f'without {o.column}' if o.column else o.why}"
        for o in model.left_out
    )
    ratios = sum(len(term.coefficients) for term in model.terms)
    worded = model.words if ratios <= MAX_WORDED else model.words[:1]
    text = " ".join(worded) + (
        f" The model was fitted to {formatting.count(model.rows, rows)} and "
        f"{formatting.count(model.events, 'events')}"
        + (f" ({formatting.count(model.rows_left_out, rows)} left out: {left})" if left else "")
        + "."
    )
    if ranking is None or ranking.concordance is None or ranking.standard_error is None:
        return text
    return (
        f"{text} The concordance was {formatting.rounded(ranking.concordance, 3)} (standard error "
        f"{formatting.rounded(ranking.standard_error, 3)}): of the pairs that can be compared, the model "
        f"puts {formatting.percent(ranking.concordance)} in the order in which they happened."
    )


@dataclass(frozen=True, slots=True)
class _Line:
    """A ratio, and what its term is called."""

    name: str
    of: CoefficientReadout

    @property
    def note(self) -> str:
        """For other programs, why a ratio or a limit is not there."""
        both = (("alone", self.of.alone), ("adjusted", self.of.adjusted))
        return "; ".join(f"{which}: {one.cell_note}" for which, one in both if one.cell_note)


def ratio_table(model: ModelResult) -> ReportTable:
    """Hazard ratios, each on its own and adjusted for the others."""
    lines = [
        _Line(f"{term.name}: {c.label}" if term.headed else term.name, c)
        for term in model.terms
        for c in term.coefficients
    ]
    return table_of(
        "ratios",
        "Hazard ratios",
        lines,
        (
            Column(key="term", head="", value=lambda one: one.name),
            Column(key="against", head="", value=lambda one: one.of.comparison),
            *_of_reading("alone", "unadjusted (interval)", lambda one: one.of.alone),
            *_of_reading("adjusted", "adjusted (interval)", lambda one: one.of.adjusted),
            *notes_beside(lines, lambda one: one.note),
        ),
        "Both columns come from the same rows. A hazard ratio compares rates at any moment among those "
        "free of the event: it is not a ratio of shares.",
    )


def _of_reading(
    key: str, head: str, reading: Callable[[_Line], RatioReadout]
) -> list[Column[_Line]]:
    """The ratio with its interval, and its p; what it is made of is in files only."""
    return [
        Column(
            key=f"{key}_ratio",
            head=head,
            value=lambda one: reading(one).ratio,
            cell=lambda one: number_cell(reading(one).worded, reading(one).ratio),
        ),
        Column(key=f"{key}_lower", value=lambda one: reading(one).lower),
        Column(key=f"{key}_upper", value=lambda one: reading(one).upper),
        Column(key=f"{key}_coefficient", value=lambda one: reading(one).beta),
        Column(key=f"{key}_standard_error", value=lambda one: reading(one).standard_error),
        Column(key=f"{key}_z", value=lambda one: reading(one).z),
        Column(
            key=f"{key}_p",
            head="p",
            value=lambda one: reading(one).p,
            cell=lambda one: p_cell(reading(one).p),
        ),
    ]


PIECE = Piece(
    key="ratios",
    title="Hazard ratios",
    words="hazard ratios",
    shows="the hazard ratios, unadjusted and adjusted",
    shortest="journal",
    render=_ratios,
    needs=("model",),
    parts=("model/ranking",),
    offer="Hazard ratios",
)
