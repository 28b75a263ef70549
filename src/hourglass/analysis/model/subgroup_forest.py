"""The main term within the levels of other variables: a forest, with the p of each product
(methods.md, section 4: Proportional hazards regression, "Subgroups")."""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from hourglass.analysis.model.fitting import FittedModel
from hourglass.analysis.model.ratio_axis import ratio_axis
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.terms.forms import CurvedTerm, ProductTerm, in_product
from hourglass.analysis.model.told_ratios import unit_of
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.cell import Cell, figure, whole, words
from hourglass.analysis.shared.curve_form import ci
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import TextColumn, Track
from hourglass.analysis.shared.figure.marks import Bars, Points, Rule
from hourglass.analysis.shared.grouping import band_labels, splits_of
from hourglass.analysis.shared.groups import group_by, levels_of
from hourglass.analysis.shared.typed import ratio_of
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import NumberColumn
from hourglass.core.arrays import IntArray
from hourglass.core.errors import HourglassError, NotEstimableError
from hourglass.core.normal import normal_quantile
from hourglass.core.people import Tally
from hourglass.core.regression.subgroups import Subgroups, subgroups
from hourglass.core.watch import Watch

CAUTION = (
    "A ratio within a subgroup rests on few events, and of many subgroups some differ by chance: look at "
    "the p of the product, not at which intervals hold 1. A subgroup that was not planned confirms nothing."
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """A line of the forest: a variable with the p of its product, or a level with its ratio."""

    name: str
    level: Tally | None = None
    beta: float | None = None
    error: float | None = None
    p: float | None = None
    note: str = ""


def subgroup_track(
    cohort: Cohort, fitted: FittedModel, statement: ModelStatement, level: float, watch: Watch
) -> list[Track]:
    """A forest of the first term within the levels of each chosen variable."""
    if not statement.subgroups or not fitted.design.asked:
        return []
    rows: list[Row] = []
    for name in statement.subgroups:
        watch(f"within the levels of {name}", 0.6)
        try:
            rows += _of_variable(cohort, fitted, name)
        except HourglassError as why:
            rows.append(Row(name=name, note=str(why)))
    return [_track(rows, fitted, level)]


def _of_variable(cohort: Cohort, fitted: FittedModel, name: str) -> list[Row]:
    coded = fitted.design
    main = coded.asked[0]
    fitted.require_unpenalised()
    if coded.over_time is not None:
        raise NotEstimableError("within subgroups only ratios that stay the same are told")
    if isinstance(main, CurvedTerm | ProductTerm) or name == main.column:
        raise NotEstimableError("a category, or a number as it is, is told within subgroups")
    if in_product(coded.asked, main.column):
        raise NotEstimableError(f"{main.column} is in a product, and told within its levels there")
    code, labels = _levels(cohort, name)
    own = code[coded.place]
    there = own >= 0
    data = coded.data if there.all() else coded.data.only(there)
    stratum = None if coded.stratum is None else coded.stratum[there]
    positions = [int(k) for k in coded.of_term(0)]
    found = subgroups(
        data,
        coded.x[there],
        positions,
        own[there],
        len(labels),
        ties=fitted.plain.ties,
        stratum=stratum,
    )
    rows = [Row(name=name, p=found.test.p, note=found.test.blank or "")]
    unit = unit_of(main)
    for level, label in enumerate(labels):
        for m, place in enumerate(positions):
            named = coded.columns[place].label if len(positions) > 1 else ""
            rows.append(_of_level(found, level, m, f"{label}, {named}" if named else label, unit))
    return rows


def _levels(cohort: Cohort, name: str) -> tuple[IntArray, tuple[str, ...]]:
    """(n,) the level of each row: of a category, or the thirds of a number."""
    column = cohort.table.column(name)
    if isinstance(column, NumberColumn) and not levels_of(column):
        edges = next((e for title, e in splits_of(cohort, name) if title == "at its tertiles"), ())
        if not edges:
            raise NotEstimableError("it cannot be split: its values are all alike")
        code = np.searchsorted(np.array(edges), column.values, side="left")
        labels = band_labels(name, [column.written(e) for e in edges])
        return np.where(column.missing, -1, code), labels
    groups = group_by(cohort.table, name, None)
    return groups.code, groups.labels


def _of_level(found: Subgroups, level: int, m: int, label: str, unit: float) -> Row:
    place, fit = int(found.place[level, m]), found.divided
    tally = found.levels[level]
    fate = fit.fate[place]
    if fate != "finite":
        words_of = {
            "aliased": "not estimable here",
            "to +infinity": "grows without bound",
            "to -infinity": "falls to 0",
            "undetermined": "not determined",
        }
        return Row(name=label, level=tally, note=words_of[fate])
    beta, error = unit * float(fit.beta[place]), unit * float(fit.standard_error[place])
    return Row(name=label, level=tally, beta=beta, error=error)


def _track(rows: list[Row], fitted: FittedModel, confidence: float) -> Track:
    z = normal_quantile(confidence)
    main = fitted.design.asked[0]
    beta = np.array([math.nan if r.beta is None else r.beta for r in rows])
    error = np.array([math.nan if r.error is None else r.error for r in rows])
    place = np.arange(len(rows), dtype=np.float64)
    known = np.isfinite(beta)
    low, high = beta - z * error, beta + z * error
    told = f"{main.column}, {main.unit_label or fitted.design.columns[0].told}"
    return Track(
        id="subgroups",
        title="Within subgroups",
        subtitle=f"hazard ratio of {told}",
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
            TextColumn(head=told, side="left", cells=[_name(r) for r in rows], share=24),
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
    limits = wording.interval(wording.ratio(low), wording.ratio(high))
    told = f"{wording.ratio(ratio_of(row.beta))} ({limits})"
    return figure(told, ratio_of(row.beta))


def _p(row: Row) -> Cell | None:
    if row.level is not None:
        return None
    return words(row.note) if row.p is None else figure(wording.p_value(row.p), row.p)
