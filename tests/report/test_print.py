"""Printed figures, read back: the places of every mark, the fonts, the pixels."""

import io
import os
import re
import zlib
from pathlib import Path
from xml.etree import ElementTree

import numpy as np
import pytest
from PIL import Image

from every_mark import END, every_mark, forest, steps
from hourglass.report.print.figure import Printable
from hourglass.report.print.files import inline_svg, print_figures
from hourglass.report.print.layout import apart
from hourglass.report.print.settings import PrintSettings

SVG = "{http://www.w3.org/2000/svg}"
SETTINGS = PrintSettings(title="A title", caption=True)


def printed(figure, form="svg", **settings):
    given = SETTINGS.model_copy(update=settings)
    return print_figures([Printable(figure, given)], form)


def by_id(svg):
    """Every group of the file by its id."""
    return {g.get("id"): g for g in ElementTree.fromstring(svg).iter(f"{SVG}g") if g.get("id")}


def corners(group):
    """The places of the first path of a group, in points."""
    return places_in(next(group.iter(f"{SVG}path")).get("d"))


def places_in(path):
    """The places that a path goes through."""
    return np.array([[float(v) for v in pair] for pair in re.findall(r"([-\d.]+) ([-\d.]+)", path)])


def used(group):
    """Where a glyph is put, in points."""
    return np.array([[float(u.get("x")), float(u.get("y"))] for u in group.iter(f"{SVG}use")])


def to_values(points, box, up):
    """Values of places within the box (left, right, top, bottom) of a strip from 0 to END and up."""
    left, right, top, bottom = box
    x = (points[:, 0] - left) / (right - left) * END
    share = (bottom - points[:, 1]) / (bottom - top)
    low, high, log = up
    y = np.exp(np.log(low) + share * np.log(high / low)) if log else low + share * (high - low)
    return np.column_stack([x, y])


@pytest.fixture(scope="module")
def groups():
    return by_id(printed(every_mark()))


def box_of(groups, index):
    """The strip's box: the clipping rectangle of its marks."""
    svg = ElementTree.fromstring(printed(every_mark()))
    rects = [r for clip in svg.iter(f"{SVG}clipPath") for r in clip.iter(f"{SVG}rect")]
    boxes = sorted({tuple(float(r.get(k)) for k in ("x", "y", "width", "height")) for r in rects},
                   key=lambda b: (b[1], b[0]))  # fmt: skip
    x, y, wide, high = boxes[index]
    return x, x + wide, y, y + high


SURVIVAL, RATIO, RATE = (0, 1, False), (0.2, 8, True), (0, 10, False)


def test_a_step_line_read_back_has_its_own_corners(groups):
    x, y = steps()
    found = to_values(corners(groups["survival-4"]), box_of(groups, 0), SURVIVAL)
    wanted = np.column_stack([np.repeat(np.append(x, END), 2)[1:-1], np.repeat(y, 2)])
    assert found == pytest.approx(wanted, abs=1e-5)


def test_bands_and_straight_lines_are_where_they_belong(groups):
    _, y = steps()
    band = to_values(corners(groups["survival-1"]), box_of(groups, 0), SURVIVAL)
    assert band[:, 1].min() == pytest.approx(0.9 * y[-1], abs=1e-5)
    assert {round(v, 3) for v in 0.9 * y} <= {round(v, 3) for v in band[:, 1]}
    ghost = to_values(corners(groups["survival-6"]), box_of(groups, 0), SURVIVAL)
    grid = np.linspace(0, END, 30)
    assert ghost == pytest.approx(np.column_stack([grid, 0.5 + grid / 300]), abs=1e-4)


def test_points_bars_rules_and_bins_are_where_they_belong(groups):
    box, grid = box_of(groups, 1), np.linspace(0, END, 30)
    dots = to_values(used(groups["ratio-2"]), box, RATIO)
    assert dots == pytest.approx(np.column_stack([grid, np.exp(np.sin(grid))]), rel=1e-4, abs=1e-4)
    for name, first in (("ratio-3", 0), ("ratio-4", 4), ("ratio-5", 8)):
        found = to_values(used(groups[name]), box, RATIO)
        assert found == pytest.approx(
            np.column_stack([grid[first : first + 3], [1, 2, 3]]), rel=1e-4, abs=1e-4
        )
    rule = to_values(corners(groups["ratio-0"]), box, RATIO)
    assert rule[:, 1] == pytest.approx([1.5, 1.5], rel=1e-4)
    upright = to_values(corners(groups["ratio-1"]), box, RATIO)
    assert upright[:, 0] == pytest.approx([24, 24], rel=1e-4)
    paths = [path.get("d") for path in groups["ratio-6"].iter(f"{SVG}path")]
    bars = np.array([to_values(places_in(path), box, RATIO) for path in paths])
    assert np.sort(bars[:, :, 1], axis=1) == pytest.approx(
        np.array([[0.2, 1], [1, 2], [2, 8]]), rel=1e-4
    )
    bins = to_values(corners(groups["rate-0"]), box_of(groups, 2), RATE)
    assert bins[:, 1].max() == pytest.approx(9, rel=1e-4)
    region = to_values(corners(groups["survival-0"]), box_of(groups, 0), SURVIVAL)
    assert (region[:, 0].min(), region[:, 0].max()) == pytest.approx((50, 60), rel=1e-4)


def test_a_track_with_an_axis_of_its_own_is_drawn_along_that(groups):
    left, right, top, bottom = box_of(groups, -1)
    points = corners(groups["own-0"])
    x = 40 + (points[:, 0] - left) / (right - left) * 40
    y = (bottom - points[:, 1]) / (bottom - top) * 5
    wanted = [(50, 1), (60, 1), (60, 4), (70, 4), (70, 2), (75, 2)]
    assert np.column_stack([x, y]) == pytest.approx(np.array(wanted), abs=1e-3)
    text = printed(every_mark()).decode()
    assert "age up to" in text
    assert ">50<" in text


def test_words_are_words_and_hostile_ones_harmless(groups):
    text = printed(every_mark(), labels={"standard": "<script>x</script>"}).decode()
    assert "<script" not in text
    words = [t.text for t in ElementTree.fromstring(text).iter(f"{SVG}text")]
    assert "extended & <longer>" in words
    assert {"A title", "words in the track"} <= set(words)
    assert any("◐" in word for word in words)
    assert "A figure with every mark. Ticks: censored." in words, "the caption"
    root = ElementTree.fromstring(text)
    assert (root.get("role"), root.get("aria-label")) == ("img", "A figure with every mark.")


def test_a_figure_in_a_page_has_ids_of_its_own_and_its_words_as_they_are():
    like_an_id = 'a id="patch_1" url(#patch_1)'
    figure = every_mark().model_copy(update={"name": like_an_id})
    settings = SETTINGS.model_copy(update={"labels": {"standard": like_an_id}})
    texts = [inline_svg(Printable(one, settings)) for one in (figure, every_mark())]
    roots = [ElementTree.fromstring(text) for text in texts]
    ids = [{e.get("id") for e in root.iter() if e.get("id")} for root in roots]
    assert ids[0]
    assert not ids[0] & ids[1]
    for root, own in zip(roots, ids, strict=True):
        clips = {e.get("clip-path") for e in root.iter()} - {None}
        assert clips
        assert {clip.removeprefix("url(#").removesuffix(")") for clip in clips} <= own
    assert roots[0].get("aria-label") == like_an_id
    words = " ".join(t.text or "" for t in roots[0].iter(f"{SVG}text"))
    assert like_an_id in words


@pytest.mark.parametrize("form", ["svg", "pdf", "png"])
def test_the_same_figure_gives_the_same_bytes(form):
    first = printed(every_mark(), form)
    assert first == printed(every_mark(), form)
    assert first != printed(every_mark(), form, preset="grey")
    assert b"2026" not in first, "no date"


def test_a_pdf_is_drawn_with_its_fonts_within():
    body = printed(every_mark(), "pdf")
    unpacked = b"".join(
        zlib.decompress(part) for part in re.findall(rb"stream\r?\n(.*?)\r?\nendstream", body, re.S)
        if part[:1] == b"x"
    )  # fmt: skip
    assert b"/FontFile2" in body, "TrueType fonts"
    assert b"HourglassSans" in body
    assert b"/Subtype /Image" not in body
    assert unpacked.count(b" l\n") > 100, "drawn with lines"


def test_a_png_has_the_pixels_requested():
    stated = {"width": 85.0, "height": 120.0, "dpi": 200}
    picture = Image.open(io.BytesIO(printed(every_mark(), "png", **stated)))
    assert picture.size == (int(85 / 25.4 * 200), int(120 / 25.4 * 200))


def test_settings_change_what_they_name():
    def texts_of(**settings):
        return [
            t.text
            for t in ElementTree.fromstring(printed(every_mark(), **settings)).iter(f"{SVG}text")
        ]

    assert "Number at risk" in texts_of()
    assert "Number at risk" not in texts_of(at_risk=False)
    assert texts_of(tracks=["ratio"])[1] == "vessels"
    assert {"0", "20", "40", "60"} <= set(texts_of(tick_step=20.0))
    assert "30" not in texts_of(tick_step=20.0)
    assert "Time since grafting" in texts_of(across="Time since grafting")
    assert "longer" in texts_of(labels={"extended & <longer>": "longer"})
    assert "Chance of being free" in texts_of(titles={"survival": "Chance of being free"})


def test_several_figures_share_a_file_with_letters():
    two = [Printable(every_mark(), SETTINGS), Printable(forest(), PrintSettings(width=100))]
    svg = print_figures(two, "svg")
    text = [t.text for t in ElementTree.fromstring(svg).iter(f"{SVG}text")]
    assert "A A title" in [" ".join(word.split()) for word in text]
    assert "B" in text
    assert {"A-survival-4", "B-ratios-0"} <= by_id(svg).keys()


def test_a_limit_past_the_axis_is_an_arrow():
    groups = by_id(printed(forest()))
    lines = list(groups["ratios-0"].iter(f"{SVG}path"))
    assert len(lines) == 2
    text = printed(forest()).decode()
    assert len(re.findall(r"<use ", text)) == 2 + 1, "two diamonds and one arrow"


@pytest.mark.parametrize("seed", range(20))
def test_labels_at_line_ends_never_lie_on_each_other(seed):
    rng = np.random.default_rng(seed)
    heights = rng.choice([10.0, 20.0], 8)
    found = np.array(apart(list(rng.uniform(0, 200, 8)), list(heights), 0, 200))
    order = np.argsort(found)
    gaps = np.diff(found[order]) - (heights[order][1:] + heights[order][:-1]) / 2
    assert gaps.min() > -1e-9
    assert (found - heights / 2).min() > -1e-9
    assert (found + heights / 2).max() < 200 + 1e-9


def test_two_figures_in_a_row_share_the_width_of_one():
    two = [Printable(every_mark(), SETTINGS), Printable(forest(), PrintSettings(width=300))]
    alone, row, column = (
        ElementTree.fromstring(print_figures(figures, "svg", across=across))
        for figures, across in ((two[:1], 1), (two, 2), (two, 1))
    )
    wide, high = (
        [float(svg.get(side)[:-2]) for svg in (alone, row, column)] for side in ("width", "height")
    )
    assert wide[1] == pytest.approx(wide[0])
    assert high[1] < 0.7 * high[2]
    titles = {t.text[0]: float(t.get("x")) for t in row.iter(f"{SVG}text") if t.get("x")}
    assert titles["B"] - titles["A"] == pytest.approx(wide[1] / 2)
    first = np.vstack(
        [
            places_in(p.get("d"))
            for p in by_id(ElementTree.tostring(row))["A-survival-4"].iter(f"{SVG}path")
        ]
    )
    assert first[:, 0].max() < wide[1] / 2


DRAWN = Path(__file__).parent / "printed"
NUMBER = re.compile(r"-?\d+\.?\d*(?:e-?\d+)?")
FIGURES = {
    "every mark": lambda: [Printable(every_mark(), SETTINGS)],
    "forest": lambda: [Printable(forest(), PrintSettings(width=100, caption=True))],
    "grey, narrow": lambda: [Printable(every_mark(), PrintSettings(width=85, preset="grey"))],
    "two in a row": lambda: [Printable(every_mark(), SETTINGS), Printable(forest(), SETTINGS)],
}


@pytest.mark.parametrize("name", FIGURES)
def test_a_figure_is_printed_as_it_was_looked_at(name):
    """The kept files were looked at; HOURGLASS_DRAW=1 writes them anew, to be looked at again."""
    figures = FIGURES[name]()
    text = print_figures(figures, "svg", across=len(figures), fonts=False).decode()
    kept = DRAWN / f"{name}.svg"
    if os.environ.get("HOURGLASS_DRAW"):
        kept.write_text(text, encoding="utf-8")
    before = kept.read_text(encoding="utf-8")
    assert NUMBER.sub("0", text) == NUMBER.sub("0", before)
    now, then = (np.array([float(n) for n in NUMBER.findall(t)]) for t in (text, before))
    assert np.allclose(now, then, rtol=0, atol=0.02)
