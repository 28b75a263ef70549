"""Figures in Chromium: every mark where it belongs, zoom, hover, tables and files."""

import re
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from playwright.sync_api import expect

from every_mark import END, every_mark, steps
from hourglass.analysis.shared.stage import stage_of
from hourglass.study.recent import Recent

HALF = 0.5
"""Pixels."""


@pytest.fixture
def drawn(address, monkeypatch, page):
    """Estimate, with a figure of every mark in place of its own."""
    results = address.app.state.hourglass.results
    own = stage_of(results.stages, "estimate")

    def show(*given):
        return own.show(*given).model_copy(update={"figure": every_mark()})

    changed = tuple(replace(s, show=show) if s is own else s for s in results.stages)
    monkeypatch.setattr(results, "stages", changed)
    monkeypatch.setattr(results, "_shown", Recent("every mark"))
    page.open("Harbour lamps", "estimate")
    page.locator(".track-survival .curve").first.wait_for()
    assert page.still() is not None
    return page


class Strip:
    """A strip's scales, read off its own ticks."""

    def __init__(self, page, track, log=False):
        found = page.evaluate(
            """(track) => {
                const axis = [...document.querySelectorAll('.time-axis > line')][0];
                const ticks = [...document.querySelectorAll(`.track-${track} .tick:not(.panel-tick)`)];
                const lines = [...document.querySelectorAll(`.track-${track} .grid`)];
                return {x: [+axis.getAttribute('x1'), +axis.getAttribute('x2')],
                    ticks: ticks.map((t, k) => [t.textContent, +lines[k].getAttribute('y1')])};
            }""",
            track,
        )
        self.left, self.right = found["x"]
        self.log = log
        shown = [(float(label.strip("%+").replace("−", "-")), y) for label, y in found["ticks"]]
        scale = 100 if "%" in found["ticks"][0][0] else 1
        (self.v1, self.y1), (self.v2, self.y2) = ((v / scale, y) for v, y in (shown[0], shown[-1]))

    def pixels(self, x, y):
        """Where values lie, in pixels."""
        f = np.log if self.log else np.asarray
        share = (f(np.asarray(y, float)) - f(self.v1)) / (f(self.v2) - f(self.v1))
        return np.column_stack([
            self.left + np.asarray(x) / END * (self.right - self.left),
            self.y1 + share * (self.y2 - self.y1),
        ])  # fmt: skip


def path(page, selector, k=0, by=(0, 0)):
    """The places that a path goes to, moved from where a glyph begins to its middle."""
    text = page.locator(selector).nth(k).get_attribute("d")
    found = re.findall(r"[ML]?(-?[\d.]+)[ ,](-?[\d.]+)", text)
    return np.array([[float(v) for v in place] for place in found]) + np.array(by)


def test_step_lines_are_drawn_to_half_a_pixel(drawn):
    x, y = steps()
    strip = Strip(drawn, "survival")
    found = path(drawn, ".track-survival .curve", 0)
    wanted = strip.pixels(np.repeat(np.append(x, END), 2)[1:-1], np.repeat(y, 2))
    assert np.abs(found[: len(wanted)] - wanted).max() < HALF


def test_every_kind_of_mark_is_drawn_to_half_a_pixel(drawn):
    x, y = steps()
    grid = np.linspace(0, END, 30)
    survival, ratio, rate = (
        Strip(drawn, "survival"),
        Strip(drawn, "ratio", log=True),
        Strip(drawn, "rate"),
    )

    def near(found, wanted):
        assert len(found) >= len(wanted)
        distance = np.abs(found[None, :, :] - wanted[:, None, :]).max(axis=2).min(axis=1)
        assert distance.max() < HALF

    near(path(drawn, ".track-survival .band", 0), survival.pixels(x, 0.9 * y))
    near(path(drawn, ".track-survival .band", 1), survival.pixels(grid, grid / 200))
    near(path(drawn, ".track-survival .curve", 2), survival.pixels(grid, 0.5 + grid / 300))
    ticks = path(drawn, ".track-survival .points-tick", by=(0, 4))
    near(ticks, survival.pixels(x[5:9], y[5:9]))
    near(path(drawn, ".track-ratio .points-dot"), ratio.pixels(grid, np.exp(np.sin(grid))))
    near(path(drawn, ".track-ratio .points-ring", by=(3.5, 0)), ratio.pixels(grid[:3], [1, 2, 3]))
    near(path(drawn, ".track-ratio .points-diamond", by=(0, 6)), ratio.pixels(grid[4:7], [1, 2, 3]))
    near(path(drawn, ".track-ratio .points-cross", by=(3, 3)), ratio.pixels(grid[8:11], [1, 2, 3]))
    bars = ratio.pixels(np.repeat(grid[12:15], 2), [0.2, 1, 1, 2, 2, 8])
    near(path(drawn, ".track-ratio .bars"), bars)
    rule = drawn.locator(".track-ratio .rule.dashed")
    assert abs(float(rule.get_attribute("y1")) - ratio.pixels([0], [1.5])[0, 1]) < HALF
    top = float(
        re.findall(r"V(-?[\d.]+)", drawn.locator(".track-rate .histogram").get_attribute("d"))[4]
    )
    assert abs(top - rate.pixels([0], [9])[0, 1]) < HALF
    region = drawn.locator(".track-survival rect[fill*='hatched']")
    assert abs(float(region.get_attribute("x")) - survival.pixels([50], [0])[0, 0]) < HALF
    inset = drawn.get_by_text("words in the track")
    assert abs(float(inset.get_attribute("x")) - survival.pixels([20], [0])[0, 0]) < HALF
    assert drawn.locator(".track-apart .curve").count() == 2


def test_labels_at_line_ends_do_not_touch(drawn):
    boxes = [label.bounding_box() for label in drawn.locator(".track-survival .end-label").all()]
    boxes.sort(key=lambda box: box["y"])
    assert len(boxes) == 2
    assert boxes[0]["y"] + boxes[0]["height"] <= boxes[1]["y"] + 3
    ticks = [t.bounding_box() for t in drawn.locator(".time-axis text:not(.axis-name)").all()]
    ticks.sort(key=lambda box: box["x"])
    assert all(a["x"] + a["width"] < b["x"] for a, b in pairwise(ticks))


def test_time_is_zoomed_and_moved_on_all_tracks_together(page):
    page.open("Larkmoor corneal grafts", "compare")
    field = page.locator(".sand-field").bounding_box()

    def ends():
        page.wait_for_load_state("networkidle")
        return page.locator(".time-axis text:not(.axis-name)").all_inner_texts()

    whole = ends()
    at_start = page.locator(".track-survival .curve").first.get_attribute("d")
    page.mouse.move(field["x"] + field["width"] / 2, field["y"] + 60)
    page.mouse.wheel(0, -600)
    assert ends() == whole, "the wheel alone scrolls the page"
    page.keyboard.down("Control")
    page.mouse.wheel(0, -600)
    page.keyboard.up("Control")
    page.get_by_role("button", name="Whole axis").wait_for()
    page.wait_for_function("() => !document.querySelector('.counts')?.textContent.includes('280')")
    assert ends() != whole
    numbers = page.locator(".track-at_risk .counts").first.locator("text").count()
    assert numbers == len(ends()) + 1, "a number at risk under every tick, and the label"
    axis = page.locator(".axis-field").bounding_box()
    page.mouse.move(axis["x"] + 200, axis["y"] + 10)
    page.mouse.down()
    page.mouse.move(axis["x"] + 120, axis["y"] + 10, steps=4)
    page.mouse.up()
    moved = ends()
    page.mouse.dblclick(field["x"] + 100, field["y"] + 60)
    page.get_by_role("button", name="Whole axis").wait_for(state="detached")
    assert ends() == whole != moved
    assert page.locator(".track-survival .curve").first.get_attribute("d") == at_start
    page.get_by_role("slider", name="Sand line").focus()
    page.keyboard.press("+")
    page.get_by_role("button", name="Whole axis").wait_for()
    page.keyboard.press("PageDown")
    page.keyboard.press("0")
    page.get_by_role("button", name="Whole axis").wait_for(state="detached")


def test_a_pointer_that_hovers_is_read_and_leaves_the_line_where_it_was(page):
    page.open("Larkmoor corneal grafts", "compare")
    field = page.locator(".sand-field").bounding_box()
    reads = page.get_by_role("textbox", name="Time read")
    before = reads.input_value()
    page.mouse.move(field["x"] + field["width"] * 0.75, field["y"] + 60)
    page.locator(".hover-line").wait_for(state="attached")
    hovered = reads.input_value()
    assert hovered != before
    page.mouse.move(field["x"] - 100, field["y"] + 60)
    page.locator(".hover-line").wait_for(state="detached")
    assert reads.input_value() == before


def test_a_figure_is_saved_as_it_is_previewed(page):
    page.open("Larkmoor corneal grafts", "compare")
    page.button("Export figure").click()
    page.get_by_role("img", name="Preview").wait_for()
    page.get_by_label("Title", exact=True).fill("Grafts")
    page.get_by_label("Label of standard").fill("usual drops")
    with page.page.expect_download() as saved:
        page.button("Save as SVG").click()
    text = saved.value.path().read_text()
    assert saved.value.suggested_filename == "Larkmoor corneal grafts, compare.svg"
    assert ">Grafts<" in text
    assert ">usual drops<" in text
    assert page.axe() == []
    page.page.keyboard.press("Escape")
    page.button("Export figure").click()
    page.get_by_role("img", name="Preview").wait_for()
    assert page.get_by_label("Title", exact=True).input_value() == "Grafts", "kept with the study"


def test_a_figure_is_headed_and_toned_where_it_stands_and_a_preset_kept_for_all_studies(page):
    page.open("Harbour lamps", "estimate")
    page.button("Figure settings").click()
    dialog = page.get_by_role("dialog", name="Figure settings")
    dialog.get_by_label("Title").fill("Lamps of the harbour")
    dialog.get_by_label("Tones").click()
    page.get_by_role("option", name="Greyscale").click()
    dialog.get_by_label("Tone of all lamps").click()
    page.get_by_role("option", name="plum").click()
    dialog.get_by_label("Dash of all lamps").click()
    page.get_by_role("option", name="dash of moss").click()
    dialog.get_by_label("Keep as preset").fill("our journal")
    page.button("Keep", exact=True).click()
    expect(dialog.get_by_label("Preset", exact=True)).to_have_text("our journal")
    assert page.axe() == []
    dialog.get_by_label("Words of the axis").fill("Hours alight")
    page.page.keyboard.press("Escape")
    figure = page.get_by_role("figure").first
    expect(figure.locator(".figure-title")).to_have_text("Lamps of the harbour")
    expect(figure.get_by_text("Hours alight")).to_be_visible()
    curve = figure.locator(".track-survival path.curve")
    expect(curve).to_have_attribute("stroke-dasharray", "11 3 2 3")
    colour = curve.evaluate("path => getComputedStyle(path).stroke")
    assert colour == "rgb(43, 43, 43)", "plum in grey"
    page.button("Add track").click()
    tracks = page.get_by_role("dialog", name="Tracks")
    tracks.get_by_label("Limits").first.uncheck()
    expect(figure.locator(".track-survival path.band")).to_have_count(0)
    page.page.keyboard.press("Escape")
    page.open("Larkmoor corneal grafts", "estimate")
    page.button("Figure settings").click()
    dialog.get_by_label("Preset", exact=True).click()
    page.get_by_role("option", name="our journal").click()
    expect(dialog.get_by_label("Tones")).to_have_text("Greyscale")
