"""The main term within the levels of other variables, as a forest with the p of each product."""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from hourglass.analysis.model.fitting import FittedModel
from hourglass.analysis.model.ratio_axis import ratio_axis
from hourglass.analysis.model.subgroup_fits import SubgroupFit
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell, number_cell, p_cell, whole, words
from hourglass.analysis.shared.curve_form import ci
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import TextColumn, Track
from hourglass.analysis.shared.figure.marks import Bars, Points, Rule
from hourglass.analysis.shared.frozen_model import ratio_of
from hourglass.core.normal import normal_quantile
from hourglass.core.regression.subgroups import Subgroups
from hourglass.core.subjects import SubjectCounts

CAUTION = (
    "A ratio within a subgroup rests on few events, and of many subgroups some differ by chance: look at "
    "the p of the product, not at which intervals hold 1. A subgroup that was not planned confirms nothing."
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """A line of the forest: a variable with the p of its product, or a level with its ratio."""

    name: str
    level: SubjectCounts | None = None
    beta: float | None = None
    error: float | None = None
    p: float | None = None
    note: str = ""


def subgroup_track(found: Sequence[SubgroupFit], fitted: FittedModel, level: float) -> list[Track]:
    """A forest of the first term within the levels of each chosen variable."""
    rows = [row for one in found for row in _of_variable(fitted, one)]
    return [_track(rows, fitted, level)] if rows else []


def _of_variable(fitted: FittedModel, one: SubgroupFit) -> list[Row]:
    if one.found is None:
        return [Row(name=one.name, note=one.why)]
    coded, test = fitted.design, one.found.test
    rows = [Row(name=one.name, p=test.p, note=test.blank or "")]
    unit, positions = coded.stated_terms[0].ratio_unit, coded.of_term(0)
    for level, label in enumerate(one.labels):
        for m, place in enumerate(positions):
            named = coded.columns[place].label if len(positions) > 1 else ""
            name = f"{label}, {named}" if named else label
            rows.append(_of_level(one.found, level, m, name, unit))
    return rows


def _of_level(found: Subgroups, level: int, m: int, label: str, unit: float) -> Row:
    place, fit = int(found.place[level, m]), found.divided
    counts = found.levels[level]
    status = fit.status[place]
    if status != "finite":
        words_of = {
            "aliased": "not estimable here",
            "to +infinity": "grows without bound",
            "to -infinity": "falls to 0",
            "undetermined": "not determined",
        }
        return Row(name=label, level=counts, note=words_of[status])
    beta, error = unit * float(fit.beta[place]), unit * float(fit.standard_error[place])
    return Row(name=label, level=counts, beta=beta, error=error)


def _track(rows: list[Row], fitted: FittedModel, confidence: float) -> Track:
    z = normal_quantile(confidence)
    main = fitted.design.stated_terms[0]
    beta = np.array([math.nan if r.beta is None else r.beta for r in rows])
    error = np.array([math.nan if r.error is None else r.error for r in rows])
    place = np.arange(len(rows), dtype=np.float64)
    known = np.isfinite(beta)
    low, high = beta - z * error, beta + z * error
    shown = f"{main.column}, {main.unit_label or fitted.design.columns[0].comparison}"
    return Track(
        id="subgroups",
        title="Within subgroups",
        subtitle=f"hazard ratio of {shown}",
        axis=Axis(
            low=-0.5, high=len(rows) - 0.5, form="category", categories=[r.name for r in rows]
        ),
        across=ratio_axis(np.concatenate([low, high])),
        grouped=False,
        marks=[
            Rule(label="no difference", at=1, upright=True),
            Bars(
                label="interval",
                at=place[known],
                low=np.exp(low[known]),
                high=np.exp(high[known]),
                upright=False,
            ),
            Points(label="ratio", glyph="diamond", x=np.exp(beta), y=place),
        ],
        columns=[
            TextColumn(head=shown, side="left", cells=[_name(r) for r in rows], share=24),
            _column("rows", rows, lambda r: None if r.level is None else whole(r.level.rows), 8),
            _column(
                "events", rows, lambda r: None if r.level is None else whole(r.level.events), 8
            ),
            _column(f"ratio ({ci(confidence)})", rows, lambda r: _ratio(r, z), 20),
            _column("p of the product", rows, _p, 12),
        ],
        note=CAUTION,
    )


def _name(row: Row) -> Cell:
    return words(row.name, strong=row.level is None)


def _column(head: str, rows: list[Row], of: Callable[[Row], Cell | None], share: int) -> TextColumn:
    return TextColumn(head=head, side="right", cells=[of(r) for r in rows], share=share)


def _ratio(row: Row, z: float) -> Cell | None:
    if row.level is None:
        return None
    if row.beta is None or row.error is None:
        return words(row.note)
    low, high = ratio_of(row.beta - z * row.error), ratio_of(row.beta + z * row.error)
    shown, lower, upper = formatting.ratios(ratio_of(row.beta), low, high)
    return number_cell(f"{shown} ({formatting.interval(lower, upper)})", ratio_of(row.beta))


def _p(row: Row) -> Cell | None:
    if row.level is not None:
        return None
    return words(row.note) if row.p is None else p_cell(row.p)
