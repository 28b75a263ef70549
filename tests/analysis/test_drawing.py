"""What is sent of a figure: the same picture to the pixel, exact values on request."""

import gzip
import json

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from every_mark import END, every_mark, forest
from examples import examples
from hourglass.analysis.shared.cohort_summary import over_follow_up
from hourglass.analysis.shared.figure.axes import Axis
from hourglass.analysis.shared.figure.drawing import COLUMNS, MAX_NUMBERS, Window, drawn, thinned
from hourglass.analysis.shared.figure.marks import CountRow, Line, Points, step_area, step_line
from hourglass.analysis.shared.figure.series import PAGE, Series
from hourglass.analysis.shared.figure.table import figure_tables, lines_of, page_of
from hourglass.analysis.shared.figure.thinning import POINTS_NEVER_THINNED, kept_of_steps
from hourglass.analysis.shared.figure.ticks import even_ticks
from hourglass.analysis.shared.packing import pack, unpack
from hourglass.analysis.shared.sent import Drawing
from making import cohort


def per_pixel(x, y, low, high, columns):
    """The lowest and the highest value that a step line has in every column of pixels, literally."""
    found = []
    for k in range(columns):
        left, right = (low + (high - low) * j / columns for j in (k, k + 1))
        at = [y[i] for i in range(len(x)) if left <= x[i] < right]
        before = [y[i] for i in range(len(x)) if x[i] <= left]
        values = at + before[-1:]
        found.append((min(values), max(values)) if values else None)
    return found


@settings(max_examples=examples(20), deadline=None)
@given(st.integers(0, 2**32), st.sampled_from(["falls", "wanders", "jumps"]))
def test_a_thinned_line_shows_the_same_pixels(seed, shape):
    rng = np.random.default_rng(seed)
    n, columns = 2 * POINTS_NEVER_THINNED, 50
    x = np.sort(rng.choice([rng.uniform(0, 10), 1e-3], n) * rng.uniform(0, 10, n))
    y = {
        "falls": np.linspace(1, 0, n),
        "wanders": np.cumsum(rng.normal(size=n)),
        "jumps": rng.uniform(-1, 1, n),
    }[shape]
    low, high = float(x[0]), float(x[-1]) + 1e-9
    for ends in ((low, high), (low + (high - low) / 3, low + (high - low) / 2)):
        kept = kept_of_steps(x, [y], *ends, columns)
        assert per_pixel(x[kept], y[kept], *ends, columns) == per_pixel(x, y, *ends, columns)


def test_few_points_are_sent_as_they_are():
    whole = every_mark()
    (line,) = [m for m in drawn(whole).tracks[0].marks if m.label == "standard"]
    (given_,) = [m for m in whole.tracks[0].marks if m.label == "standard"]
    assert (line.x == given_.x).all()
    assert (line.y == given_.y).all()


def many(groups, n):
    rng = np.random.default_rng(3)
    lines, counts, dots = [], [], []
    for k in range(groups):
        x = np.sort(rng.exponential(20, n))
        lines.append(step_line(f"group {k}", k, x, np.linspace(1, 0, n), float(x[-1])))
        counts.append(CountRow(label=f"group {k}", tone=k, time=x, number=np.arange(n, 0, -1.0)))
        dots.append(
            Points(label="dots", glyph="dot", x=x, y=rng.uniform(0, 1, n), rows=list(range(n)))
        )
    figure = every_mark()
    tracks = [
        figure.tracks[0].model_copy(update={"marks": [*lines, *dots]}),
        figure.tracks[1].model_copy(update={"counts": counts}),
    ]
    return figure.model_copy(update={"tracks": tracks})


@pytest.mark.parametrize("groups", [2, 12])
def test_an_answer_stays_small_whatever_the_rows(groups):
    found = drawn(many(groups, 60_000))
    text = found.model_copy(update={"time": None}).model_dump_json().encode()
    assert len(gzip.compress(text, 4)) < 300_000
    assert found.tracks[1].counts[0].number[0] == 60_000, "numbers at risk at ticks stay exact"
    assert MAX_NUMBERS < 300_000


def test_every_dot_is_reached_by_zooming_in():
    figure = many(1, 20_000)
    dots = figure.tracks[0].marks[-1]
    seen, low = set(), 0.0
    for high in np.append(np.quantile(dots.x, np.linspace(0.05, 1, 20)), END)[:21]:
        window = Window(low, min(float(high), END), COLUMNS, {"survival"})
        (part,) = [m for m in drawn(figure, window).tracks[0].marks if m.kind == "points"]
        assert part.of is None
        seen |= set(part.rows)
        low = float(high)
        if low >= END:
            break
    inside = {row for row, x in zip(dots.rows, dots.x, strict=True) if x <= END}
    assert seen >= inside


def test_tracks_that_are_offered_are_sent_without_their_marks():
    figure = every_mark()
    hidden = figure.model_copy(
        update={"tracks": [t.model_copy(update={"shown": t.id != "ratio"}) for t in figure.tracks]}
    )
    by_id = {t.id: t for t in drawn(hidden).tracks}
    assert (by_id["ratio"].drawn, by_id["ratio"].marks) == (False, [])
    assert by_id["ratio"].title == "vessels"
    stated = drawn(hidden, Window(0, END, 500, {"ratio"}))
    assert [t.id for t in stated.tracks if t.drawn] == ["ratio"]


def test_a_description_is_packed_whole_and_each_array_once():
    figure = every_mark()
    series = [Series(rule="from", time=figure.tracks[0].marks[1].x)]
    packed = pack(Drawing(figure=figure, series=series))
    again = unpack(packed)
    assert again.model_dump_json() == Drawing(figure=figure, series=series).model_dump_json()
    long = np.arange(100_000, dtype=np.float64)
    lines = [Line(label=f"{k}", x=long, y=long) for k in range(5)]
    tracks = [figure.tracks[0].model_copy(update={"marks": lines})]
    assert len(pack(figure.model_copy(update={"tracks": tracks}))) < 1_000_000


def test_a_long_series_is_sent_by_the_page():
    time = np.arange(2 * PAGE + 5, dtype=np.float64)
    series = Series(rule="from", time=time, columns=[time * 2, time * np.nan], before=[0, 0])
    shown = series.sent(7, whole=False)
    assert (shown.key, shown.length, shown.pages) == (7, time.size, [0.0, PAGE, 2 * PAGE])
    assert [shown.time.size, *(c.size for c in shown.columns)] == [0, 0, 0]
    pages = [np.frombuffer(series.page(k)).reshape(3, -1) for k in range(3)]
    assert (np.concatenate([p[0] for p in pages]) == time).all()
    assert (np.concatenate([p[1] for p in pages]) == time * 2).all()
    assert np.isnan(pages[2][2]).all()
    assert series.page(3) == b""
    short = Series(rule="from", time=time[:9]).sent(0, whole=False)
    assert (short.key, short.time.size) == (None, 9)


class TestTables:
    def test_steps_are_read_at_every_event_time_and_the_rest_where_it_lies(self):
        figure = every_mark()
        tables = figure_tables(figure)
        titles = [table.title for table in tables]
        assert titles[0] == "At the event times"
        assert {"vessels: events", "Rate: bins"} <= set(titles)
        head, first, second, *_ = [*lines_of(tables[0])]
        assert head[0] == "months_of_follow_up"
        by_key = dict(zip(head, second, strict=True))
        line = next(m for m in figure.tracks[0].marks if m.label == "standard")
        assert by_key["free_of_the_event_standard"] == line.y[1]
        assert first[0] == 0
        assert by_key["number_at_risk_standard"] == 40
        dots = tables[titles.index("vessels: events")]
        assert [*lines_of(dots)][1][0] == 0, "a dot names its row"

    def test_a_rounding_error_of_nothing_is_nothing(self):
        figure = every_mark()
        y = np.array([0.3, 1.1e-16, -0.2])
        line = Line(label="difference", x=np.array([0.0, 5, 9]), y=y, step=False)
        tracks = [figure.tracks[0].model_copy(update={"marks": [line]})]
        page = page_of(figure_tables(figure.model_copy(update={"tracks": tracks})), 0, 0, 9)
        assert [row[1] for row in page.rows] == ["0.3", "0", "-0.2"]

    def test_columns_of_the_same_name_are_distinguished(self):
        figure = every_mark()
        line = step_line("Größe (a/b)", 0, np.array([0.0]), np.array([1.0]), END)
        tracks = [figure.tracks[0].model_copy(update={"marks": [line, line]})]
        (table,) = figure_tables(figure.model_copy(update={"tracks": tracks}))
        assert len(set(table.keys)) == 3
        assert all(key.isascii() and key.replace("_", "").isalnum() for key in table.keys)


class TestTicks:
    @pytest.mark.parametrize(
        ("axis", "most", "fewest"),
        [
            (Axis(low=0, high=60, form="time", unit="months"), "0 2 4 6", "0 36"),
            (Axis(low=0, high=1200, form="time", unit="hours"), "0 50 100", "0 1\u202f000"),
            (Axis(low=0, high=0.8, form="time", unit="years"), "0.00 0.02 0.04", "0.0 0.5"),
            (Axis(low=0, high=1, form="percent"), "0.0% 2.5% 5.0%", "0% 50% 100%"),
            (Axis(low=-0.22, high=0.22, form="points"), "−22 −20 −18", "−20 0 +20"),
            (Axis(low=0, high=0.004, form="percent"), "0.00% 0.01%", "0.0% 0.2% 0.4%"),
            (Axis(low=-12, high=12, form="number", signed=True), "−12 −11 −10", "−10 0 +10"),
            (Axis(low=0.4, high=2.5, form="ratio"), "0.5 1 2", "1"),
            (Axis(low=1e-6, high=1e6, form="ratio"), "1e−6 2e−6 5e−6", "1"),
        ],
    )
    def test_go_from_many_to_few_in_round_places(self, axis, most, fewest):
        levels = axis.ticked().ticks
        assert " ".join(t.label for t in levels[0]).startswith(most)
        assert " ".join(t.label for t in levels[-1]) == fewest
        for level in levels:
            assert all(axis.low - 1e-9 <= t.at <= axis.high + 1e-9 for t in level)
            assert len({t.label for t in level}) == len(level), "no label twice"

    def test_an_axis_of_no_length_has_one(self):
        empty = over_follow_up(cohort("t,s\n0,0\n"), "Nobody", [], None)
        assert [t.at for t in drawn(empty).across.ticks[0]] == [0]

    @pytest.mark.parametrize("high", [5e-324, 1e-300, 1e-280, 1e300])
    def test_an_axis_of_any_length_has_ticks(self, high):
        levels = even_ticks(0, high, lambda at, decimals: f"{at:.6g}")
        assert all(0 <= tick.at <= high * (1 + 1e-9) for level in levels for tick in level)
        assert levels[0]

    def test_categories_are_named_where_they_lie(self):
        (track,) = drawn(forest()).tracks
        assert [(t.at, t.label) for t in track.axis.ticks[0]] == [(0, "age"), (1, "sex M")]


def test_a_drawn_figure_is_json_without_holes():
    text = drawn(every_mark()).model_dump_json()
    assert json.loads(text, parse_constant=pytest.fail)


def test_a_band_that_begins_at_the_first_event_is_drawn_from_there():
    x = np.array([0.0, 1.0, 2.0, 4.0])
    low = np.array([np.nan, 0.5, 0.4, np.nan])
    band = step_area("band", 0, x, low, low + 0.2, 5.0)
    axis = Axis(low=0, high=1, form="percent")
    found = thinned(band, Axis(low=0, high=5, form="time"), axis, Window(0, 5))
    assert found.x.tolist() == [1, 2, 4]
    assert found.low[:2].tolist() == [0.5, 0.4]
    nothing = thinned(
        step_area("none", 0, x, low * np.nan, low * np.nan, 5.0), axis, axis, Window(0, 5)
    )
    assert not np.isfinite(nothing.low).any()
