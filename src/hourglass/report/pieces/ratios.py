"""Hazard ratios, unadjusted and adjusted."""

from typing import cast

from hourglass.analysis.model.parts import Ranking
from hourglass.analysis.model.readings import ChiSquared, RatioReading
from hourglass.analysis.model.result import ModelResult
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.cell import Cell, Raw, figure, words
from hourglass.report.pieces.piece import Findings, Piece, Printed
from hourglass.report.table_data import with_notes
from hourglass.report.tables import ReportRow, ReportTable

TIES = {
    "Efron": "Ties by Efron (1977)",
    "Breslow": "Ties by Breslow (1974)",
    "exact": "Ties by the exact likelihood (Cox 1972)",
}
FIGURES = ("ratio", "lower", "upper", "coefficient", "standard_error", "z", "p")


def _ratios(found: Findings) -> Printed:
    model = cast(ModelResult, found.results["model"])
    if model.blank is not None:
        return Printed(method=model.sentence.text, paragraphs=(model.blank,))
    ranking = cast(Ranking | None, found.results.get("model/ranking"))
    return Printed(
        method=model.sentence.text,
        paragraphs=(model_words(model, ranking),),
        tables=(ratio_table(model),),
        note=f"{'; '.join(_test(t) for t in model.tests)}. {TIES[model.ties]}.",
    )


def _test(test: ChiSquared) -> str:
    statistic = wording.statistic(test.statistic)
    return f"{test.name} χ² {statistic}, {test.df} df, {wording.p_phrase(test.p)}"


def model_words(model: ModelResult, ranking: Ranking | None) -> str:
    """Each ratio in a sentence, the rows and events, and concordance."""
    left = "; ".join(
        f"{wording.grouped(o.rows)} {f'for want of {o.column}' if o.column else o.why}"
        for o in model.left_out
    )
    said = " ".join(model.words) + (
        f" The model rests on {wording.grouped(model.rows)} rows and "
        f"{wording.grouped(model.events)} events"
        + (f" ({wording.grouped(model.rows_left_out)} rows left out: {left})" if left else "")
        + "."
    )
    if ranking is None or ranking.concordance is None or ranking.standard_error is None:
        return said
    return (
        f"{said} It puts {wording.percent(ranking.concordance)} of the pairs that can be compared in "
        f"the order in which they happened (concordance {wording.rounded(ranking.concordance, 3)}, "
        f"standard error {wording.rounded(ranking.standard_error, 3)})."
    )


def ratio_table(model: ModelResult) -> ReportTable:
    """Hazard ratios, each on its own and adjusted for the others."""
    shown: list[tuple[Cell, ...]] = []
    values: list[tuple[tuple[Raw, ...], str]] = []
    for term in model.terms:
        for c in term.coefficients:
            name = f"{term.name}: {c.label}" if term.headed else term.name
            cells = (
                words(name),
                words(c.told),
                figure(c.alone.worded, c.alone.ratio),
                figure(wording.p_value(c.alone.p), c.alone.p),
                figure(c.adjusted.worded, c.adjusted.ratio),
                figure(wording.p_value(c.adjusted.p), c.adjusted.p),
            )
            shown.append(cells)
            notes = [
                f"{which}: {one.cell_note}"
                for which, one in (("alone", c.alone), ("adjusted", c.adjusted))
                if one.cell_note
            ]
            values.append(((name, c.told, *_raw(c.alone), *_raw(c.adjusted)), "; ".join(notes)))
    keys = [
        "term",
        "against",
        *(f"alone_{f}" for f in FIGURES),
        *(f"adjusted_{f}" for f in FIGURES),
    ]
    data = with_notes(keys, values)
    rows = [ReportRow(cells, raw) for cells, raw in zip(shown, data.rows, strict=True)]
    return ReportTable(
        key="ratios",
        title="Hazard ratios",
        head=("", "", "on its own (interval)", "p", "adjusted (interval)", "p"),
        keys=data.keys,
        rows=tuple(rows),
        note="Both columns come from the same rows. A hazard ratio compares rates at any moment among "
        "those still free of the event: it is not a ratio of shares.",
    )


def _raw(reading: RatioReading) -> tuple[Raw, ...]:
    return (
        reading.ratio, reading.lower, reading.upper, reading.beta, reading.standard_error, reading.z,
        reading.p,
    )  # fmt: skip


PIECE = Piece(
    key="ratios",
    title="Hazard ratios",
    words="hazard ratios",
    render=_ratios,
    needs=("model",),
    parts=("model/ranking",),
    offer="Hazard ratios",
)
