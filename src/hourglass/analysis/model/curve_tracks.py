"""Tracks of terms whose ratio is a curve over a number: the ratio against the reference value."""

import math

import numpy as np

from hourglass.analysis.model.compared_ratios import axis_words, reference_value, used_values
from hourglass.analysis.model.fitting import FittedModel
from hourglass.analysis.model.terms.compared import column_words
from hourglass.analysis.model.terms.form import TermForm
from hourglass.analysis.model.terms.forms import in_product
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Track
from hourglass.analysis.shared.figure.marks import Area, Line, Points, Rule
from hourglass.analysis.shared.sentence import SmallShape
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import NumberColumn
from hourglass.core.arrays import evenly_placed
from hourglass.core.normal import normal_quantile
from hourglass.core.sample_quantiles import sample_quantiles

PLACES, SHAPE_PLACES = 121, 40
PREFIX = "curve-"
FARTHEST = math.log(1e4)


def curve_tracks(cohort: Cohort, fitted: FittedModel, confidence: float) -> list[Track]:
    """A track for each curved term that keeps its ratio over time and has all its coefficients.

    One that is part of a product has no single curve: it is shown within the other term.
    """
    found = []
    for k, term in enumerate(fitted.design.stated_terms):
        positions = fitted.design.of_term(k)
        finite = all(fitted.fit.status[c] == "finite" for c in positions)
        alone = term.changing is None and not in_product(fitted.design.stated_terms, term.column)
        if term.several and alone and finite:
            found.append(_track(cohort, fitted, k, term, confidence))
    return found


def curve_shapes(tracks: list[Track]) -> dict[str, SmallShape]:
    """The curves as small pictures, by the column of their term."""
    found = {}
    for track in tracks:
        line = next(mark for mark in track.marks if isinstance(mark, Line))
        x, y = np.asarray(line.x), np.log(np.asarray(line.y))
        pick = evenly_placed(x.size, SHAPE_PLACES)
        wide, high = float(np.ptp(x)) or 1.0, float(np.ptp(y)) or 1.0
        found[track.id.removeprefix(PREFIX)] = SmallShape(
            label=f"Hazard ratio over {track.title}",
            x=[round(float(v), 4) for v in (x[pick] - x.min()) / wide],
            y=[round(float(v), 4) for v in (y[pick] - y.min()) / high],
        )
    return found


def _track(cohort: Cohort, fitted: FittedModel, k: int, term: TermForm, confidence: float) -> Track:
    coded, positions = fitted.design, fitted.design.of_term(k)
    column = cohort.table.column(term.column)
    assert isinstance(column, NumberColumn)
    values, count = used_values(cohort, coded, k)
    low, high = float(values.min()), float(values.max())
    reference = reference_value(cohort, coded, k)
    x = np.unique(np.append(np.linspace(low, high, PLACES), reference))
    away = term.at(x, coded.blocks[k]) - term.at(np.array([reference]), coded.blocks[k])
    beta = away @ fitted.fit.beta[positions]
    own = fitted.fit.covariance[np.ix_(positions, positions)]
    half = normal_quantile(confidence) * np.sqrt(np.einsum("ij,jk,ik->i", away, own, away).clip(0))
    edge = np.clip(np.array([(beta - half).min(), (beta + half).max()]), -FARTHEST, FARTHEST)
    bottom, top = np.exp(np.minimum(edge[0], -0.3)), np.exp(np.maximum(edge[1], 0.3))
    lines = [np.exp(np.clip(v, -FARTHEST, FARTHEST)) for v in (beta, beta - half, beta + half)]
    shown = column.written(reference)
    within = sample_quantiles(values, count.astype(np.int64), np.array([0.05, 0.95]))
    note = (
        f"The hazard ratio of each value against {shown}, with its "
        f"{formatting.level_percent(confidence)} interval. Nine tenths of the rows lie between "
        f"{column.written(float(within[0]))} and {column.written(float(within[1]))}."
    )
    if coded.blocks[k].knots:
        knots = formatting.listed([column.written(v) for v in coded.blocks[k].knots])
        note += f" Knots at {knots}: a straight line outside the outer ones."
    return Track(
        id=f"{PREFIX}{term.column}",
        title=column_words(cohort.table, term.column),
        subtitle=f"hazard ratio against {shown}",
        axis=Axis(low=float(bottom), high=float(top), form="ratio"),
        across=Axis(low=low, high=high, form="number", label=axis_words(cohort, term.column)),
        grouped=False,
        marks=[
            Area(label="interval", x=x, low=lines[1], high=lines[2], step=False),
            Rule(label="the reference", at=1),
            Line(label="hazard ratio", x=x, y=lines[0], step=False),
            Points(
                label=f"reference, {shown}", glyph="ring", x=np.array([reference]), y=np.ones(1)
            ),
        ],
        note=note,
    )
