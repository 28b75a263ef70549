"""Curves of a category adjusted for the other terms: everybody put at each level in turn
(methods.md, section 4: Proportional hazards regression, "Adjusted curves")."""

from dataclasses import dataclass

import numpy as np

from hourglass.analysis.model.fitting import FittedModel
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.terms.forms import CategoryTerm, ProductTerm
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.cell import Cell, estimate, words
from hourglass.analysis.shared.curve_form import CurveForm
from hourglass.analysis.shared.curve_tracks import SHARE
from hourglass.analysis.shared.figure.description import Track
from hourglass.analysis.shared.figure.marks import step_line
from hourglass.analysis.shared.groups import group_by
from hourglass.analysis.shared.sections import Section, Table, quiet
from hourglass.cohort.followup import Cohort
from hourglass.core.arrays import FloatArray
from hourglass.core.errors import NotEstimableError, RefusedRowsError
from hourglass.core.regression.adjusted import SAMPLES, AdjustedCurves, adjusted_curves
from hourglass.core.regression.terms import products
from hourglass.core.watch import Watch, unwatched

SEED = 1
PLACES = 200
TITLE = "Adjusted survival"


@dataclass(frozen=True, slots=True)
class Adjusted:
    """The levels of the category with their tones, and their curves; or why there are none."""

    labels: tuple[str, ...]
    tones: tuple[int, ...]
    curves: AdjustedCurves | None
    blank: str = ""


def adjusted_levels(
    cohort: Cohort,
    fitted: FittedModel,
    statement: ModelStatement,
    form: CurveForm,
    at: FloatArray,
    samples: int,
    watch: Watch = unwatched,
) -> Adjusted | None:
    """The adjusted curves at some times, with limits from so many refits; None where none are asked for."""
    coded = fitted.design
    place = next(
        (
            k
            for k, t in enumerate(coded.asked)
            if isinstance(t, CategoryTerm) and t.column == statement.adjusted
        ),
        None,
    )
    if place is None:
        return None
    block = coded.blocks[place]
    labels = (block.names[0].against, *(name.label for name in block.names))
    groups = group_by(cohort.table, coded.asked[place].column, None)
    tones = tuple(groups.tone_of(label) for label in labels)
    try:
        fitted.require_unpenalised()
        if coded.over_time is not None:
            # The rows are parted: each would be put at a level at another time.
            raise NotEstimableError("adjusted curves are told of ratios that stay the same")
        levels = [_put_at(fitted, place, k) for k in range(len(labels))]
        found = adjusted_curves(
            coded.data, coded.x, fitted.plain, levels, at, SEED, form.confidence, samples, watch
        )
    except (NotEstimableError, RefusedRowsError) as why:
        return Adjusted(labels, tones, None, str(why))
    return Adjusted(labels, tones, found)


def _put_at(fitted: FittedModel, place: int, level: int) -> FloatArray:
    """(n, p) the columns with the category, and its products, set to a level."""
    coded = fitted.design
    x = coded.x.copy()
    own = coded.of_term(place)
    value = np.zeros(own.size)
    if level:
        value[level - 1] = 1.0
    x[:, own] = value
    column = coded.asked[place].column
    for k, term in enumerate(coded.asked):
        if isinstance(term, ProductTerm) and column in term.columns:
            parts = [x[:, coded.of_term(coded.place_of(name))] for name in term.columns]
            x[:, coded.of_term(k)] = products(*parts)
    return x


def adjusted_track(
    cohort: Cohort, fitted: FittedModel, statement: ModelStatement, form: CurveForm
) -> list[Track]:
    """The curves without limits, which take hundreds of refits."""
    times = np.linspace(0.0, cohort.follow_up.end, PLACES)
    found = adjusted_levels(cohort, fitted, statement, form, times, samples=0)
    if found is None or found.curves is None:
        return []
    curves = found.curves
    last = float(curves.time[-1]) if curves.time.size else 0.0
    return [
        Track(
            id="adjusted",
            title=TITLE,
            subtitle=f"by {statement.adjusted}",
            height="room",
            axis=SHARE,
            marks=[
                step_line(label, tone, curves.time, survival, last)
                for label, tone, survival in zip(
                    found.labels, found.tones, curves.survival, strict=True
                )
            ],
            note="The mean of what the model predicts for everybody, put at each level in turn.",
        )
    ]


def adjusted_section(found: Adjusted | None, times: tuple[float, ...], form: CurveForm) -> Section:
    """Adjusted survival at chosen times, with percentile limits of the refits."""
    if found is None or found.curves is None:
        why = "the model has no such category" if found is None else found.blank
        said = quiet(f"Nothing is adjusted: {why}.")
        return Section(id="adjusted", title=TITLE, place="main", blocks=[said])
    curves = found.curves
    rows: list[list[Cell]] = []
    for level, label in enumerate(found.labels):
        cells: list[Cell] = [words(label, tone=found.tones[level])]
        for k in range(curves.time.size):
            values = (curves.survival[level, k], curves.lower[level, k], curves.upper[level, k])
            value, low, high = (float(v) for v in values)
            limits = (
                f" ({wording.interval(wording.share_of_100(low), wording.percent(high))})"
                if np.isfinite([low, high]).all()
                else ""
            )
            cells.append(estimate(f"{wording.percent(value)}{limits}", value, low, high))
        rows.append(cells)
    shown = [wording.plain(float(t)) for t in curves.time]
    table = Table(
        label=TITLE,
        head=["", *(f"at {t} ({form.ci})" for t in shown)],
        keys=["level", *(f"survival_at_{t}" for t in shown)],
        rows=rows,
    )
    about = quiet(
        f"Percentile limits of {SAMPLES} bootstrap refits (seed {SEED}); {curves.left_out} were left out."
    )
    return Section(id="adjusted", title=TITLE, place="main", blocks=[table, about])
