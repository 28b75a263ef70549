"""The cases that screen and paper must agree on, put to the program; the client reads the same file."""

import json
from pathlib import Path

import numpy as np
import pytest

from hourglass.analysis.shared.curve_form import CurveForm
from hourglass.analysis.shared.curve_readouts import point
from hourglass.analysis.shared.curves import curve_of
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.description import Figure, FigureGroup, Panel, Track
from hourglass.analysis.shared.figure.figure_settings import GroupStyle, styled
from hourglass.analysis.shared.figure.marks import Area, Bars, CountRow, Line, Points
from hourglass.analysis.shared.figure.ticks import Tick
from hourglass.analysis.shared.sand_line import curve_series
from hourglass.core.followup import follow_up
from hourglass.report.print.layout import apart, first_fitting

CASES = json.loads((Path(__file__).parents[1] / "figure_cases.json").read_text("utf-8"))
X = np.array([0.0, 1.0])


@pytest.mark.parametrize("case", CASES["apart"])
def test_labels_move_apart(case):
    found = apart(case["wanted"], case["heights"], case["top"], case["bottom"])
    assert found == pytest.approx(case["found"])


def marks():
    return [
        mark
        for k in (0, 1)
        for mark in (
            Area(label=f"area {k}", tone=k, x=X, low=X, high=X),
            Bars(label=f"bars {k}", tone=k, at=X, low=X, high=X),
            Line(label=f"line {k}", tone=k, x=X, y=X),
            Points(label=f"points {k}", tone=k, glyph="dot", x=X, y=X),
        )
    ]


def two_groups():
    axis, counts = (
        Axis(low=0, high=1, form="percent"),
        [CountRow(label=f"{k}", tone=k, time=X, number=X) for k in (0, 1)],
    )
    panels = [Panel(title=f"{k}", tone=k, marks=marks()) for k in (0, 1)]
    return Figure(
        name="two groups",
        across=Axis(low=0, high=1, form="number"),
        low=0,
        high=1,
        groups=[FigureGroup(key=f"bed: {k}", label=f"{k}", tone=k) for k in (0, 1)],
        tracks=[
            Track(id="survival", title="survival", axis=axis, marks=marks()),
            Track(id="at_risk", title="at risk", counts=counts),
            Track(id="apart", title="apart", axis=axis, panels=panels),
            Track(id="ratio", title="ratio", axis=axis, grouped=False, marks=marks()),
        ],
    )


def _named(mark):
    return [mark.label, mark.tone, *([] if mark.dash is None else [mark.dash])]


@pytest.mark.parametrize("case", CASES["styled"])
def test_groups_are_drawn_as_somebody_wants_them(case):
    group_styles = [GroupStyle.model_validate(style) for style in case["group_styles"]]
    drawn = styled(two_groups(), group_styles, case["view"])
    for track in drawn.tracks:
        assert case["tracks"][track.id] == {
            "marks": [_named(mark) for mark in track.marks],
            "counts": [row.tone for row in track.counts],
            "panels": [[p.tone, [_named(mark) for mark in p.marks]] for p in track.panels],
        }


@pytest.mark.parametrize("case", CASES["ticks"])
def test_the_first_list_of_ticks_that_fits_is_drawn(case):
    levels = [[Tick(at=0, label=label) for label in level] for level in case["levels"]]
    found = first_fitting(levels, lambda label: 8 * len(label) + 16, case["length"])
    assert found == ([] if case["found"] is None else levels[case["found"]])


@pytest.mark.parametrize("case", CASES["reading"])
def test_a_curve_is_read_at_a_time(case):
    data = follow_up(np.array(case["exit"], dtype=float), np.array(case["status"]))
    curve = curve_of(data, CurveForm(0.95, start=case["start"]), "everyone", -1)
    for one, wanted in zip(curve_series(curve), case["series"], strict=True):
        assert json.loads(one.model_dump_json()) == pytest.approx(wanted)
    for wanted in case["at"]:
        read = point(curve, wanted["t"])
        there = (read.survival, read.lower, read.upper)
        assert there == pytest.approx((wanted["survival"], wanted["lower"], wanted["upper"]))
        if wanted["at_risk"] is not None:
            assert read.at_risk == wanted["at_risk"]
