"""More of a figure over HTTP: windows, pages of exact values, tables, files."""

import csv
import gzip
import io

import numpy as np
import pytest

MEANINGS = {"1": {"meaning": "event"}, "0": {"meaning": "censored"}}


@pytest.fixture(scope="module")
def large(api):
    """6,000 rows in two groups, with as many distinct times."""
    rng = np.random.default_rng(5)
    time, ends = rng.exponential(20, 6000), rng.integers(0, 2, 6000)
    rows = "".join(
        f"{t:.6f},{s},{'ab'[k % 2]}\n" for k, (t, s) in enumerate(zip(time, ends, strict=True))
    )
    study = api.new("Large")
    assert api.upload(study, "t,s,g\n" + rows).status_code == 204
    given = api.follow_up(
        study,
        clock={"kind": "duration", "column": "t"},
        outcome="s",
        meanings=MEANINGS,
        unit="months",
    )
    assert given.status_code == 204
    api.put(study, stage="compare", version=5, by="g")
    return study


@pytest.fixture
def drawing(api, large):
    found = api.result(large, "compare")
    return found, f"/api/studies/{large}/drawings/{found['drawing']}"


def test_a_window_is_drawn_anew_with_its_own_ticks(api, drawing):
    _, address = drawing
    stated = {"low": 2, "high": 2.5, "columns": 700, "tracks": ["survival", "at_risk"]}
    found = api.client.get(f"{address}/figure", params=stated).json()
    assert (found["across"]["low"], found["across"]["high"]) == (2, 2.5)
    assert found["across"]["ticks"][0][0]["at"] == 2
    assert [t["id"] for t in found["tracks"] if t["drawn"]] == ["survival", "at_risk"]
    line = next(m for m in found["tracks"][0]["marks"] if m["kind"] == "line")
    assert line["x"][0] <= 2 <= line["x"][1]
    assert line["x"][-2] <= 2.5 <= line["x"][-1]
    row = next(t for t in found["tracks"] if t["id"] == "at_risk")["counts"][0]
    assert row["time"] == sorted(
        {tick["at"] for level in found["across"]["ticks"] for tick in level}
    )


@pytest.mark.parametrize(
    ("stated", "status"),
    [
        ({"low": 3, "high": 2, "tracks": []}, 422),
        ({"low": 900, "high": 901, "tracks": []}, 422),
        ({"low": "nan", "high": 1, "tracks": []}, 422),
        ({"low": 0, "high": 1, "columns": 10**9, "tracks": []}, 422),
    ],
)
def test_a_window_that_cannot_be_is_refused_in_words(api, drawing, stated, status):
    refused = api.client.get(f"{drawing[1]}/figure", params=stated)
    assert refused.status_code == status
    assert refused.headers["content-type"] == "application/problem+json"
    assert refused.json()["detail"]


def test_pages_hold_the_curve_to_the_last_digit(api, large, drawing):
    found, address = drawing
    series = next(b for s in found["sections"] for b in s["blocks"] if b["kind"] == "timed")[
        "series"
    ]
    events = found["figure"]["time"]["events"]
    long = [s for s in (*series, events) if s["key"] is not None]
    assert long, "6,000 rows have series of several pages"
    for one in long:
        pages = [
            api.client.get(f"{address}/series/{one['key']}/{k}") for k in range(len(one["pages"]))
        ]
        assert all(page.headers["cache-control"] == "no-store" for page in pages)
        width = len(one["columns"]) + 1
        parts = [np.frombuffer(page.content).reshape(width, -1) for page in pages]
        assert [part[0, 0] for part in parts] == one["pages"]
        assert sum(part.shape[1] for part in parts) == one["length"]
    assert api.client.get(f"{address}/series/99/0").status_code == 404


def test_answers_are_light(api, large):
    found = api.client.get(f"/api/studies/{large}/compare").content
    assert len(gzip.compress(found, 4)) < 150_000


def test_the_table_is_paged_and_saved_whole(api, drawing):
    _, address = drawing
    stated = {"tracks": ["survival", "difference"], "which": 0, "first": 1000, "most": 3}
    page = api.client.get(f"{address}/table", params=stated).json()
    assert (page["first"], len(page["rows"])) == (1000, 3)
    saved = api.client.get(f"{address}/table.csv", params=stated).text
    lines = list(csv.reader(io.StringIO(saved.lstrip("\ufeff"))))
    assert len(lines) == page["total"] + 1
    assert lines[1001:1004] == page["rows"]
    assert lines[0][:2] == ["months_of_follow_up", "survival_difference_band_b_and_a_lower"]
    copied = api.client.get(f"{address}/table.csv", params={**stated, "between": "tabs"}).text
    assert list(csv.reader(io.StringIO(copied), delimiter="\t")) == lines
    beyond = api.client.get(f"{address}/table", params={**stated, "which": 99})
    assert beyond.status_code == 404


def test_a_figure_that_was_replaced_is_stated_to_be(api, larkmoor):
    old = api.result(larkmoor, "estimate")["drawing"]
    api.put(larkmoor, stage="estimate", version=4, confidence=0.9)
    assert api.result(larkmoor, "estimate")["drawing"] != old
    gone = api.client.get(
        f"/api/studies/{larkmoor}/drawings/{old}/table", params={"tracks": "survival"}
    )
    assert gone.status_code == 200, "a page that still shows it reads on while it is remembered"
    never = api.client.get(f"/api/studies/{larkmoor}/drawings/no/table", params={"tracks": []})
    assert never.status_code == 410
    assert "reload" in never.json()["detail"]


def test_the_settings_of_a_figure_stay_with_the_study(api, lamps):
    start = api.get(lamps, "figures/estimate")
    assert start["width"] == 170
    kept = api.client.put(
        f"/api/studies/{lamps}/figures/estimate", json={**start, "width": 85, "title": "Lamps"}
    )
    assert kept.status_code == 204
    assert api.get(lamps, "figures/estimate")["title"] == "Lamps"
    assert api.get(lamps, "figures/compare")["width"] == 170
    refused = api.client.put(f"/api/studies/{lamps}/figures/estimate", json={"width": 5})
    assert refused.status_code == 422


@pytest.mark.parametrize(
    ("form", "begins"), [("svg", b"<?xml"), ("pdf", b"%PDF"), ("png", b"\x89PNG")]
)
def test_a_figure_goes_out_as_a_file(api, lamps, form, begins):
    drawings = [api.result(lamps, stage)["drawing"] for stage in ("estimate", "compare")]
    stated = {
        "form": form,
        "figures": [{"drawing": d, "settings": {"title": "Lamps"}} for d in drawings],
    }
    files = [api.client.post(f"/api/studies/{lamps}/figures", json=stated) for _ in range(2)]
    assert files[0].status_code == 200
    assert files[0].content.startswith(begins)
    assert files[0].content == files[1].content


def test_axes_are_drawn_as_requested(api, drawing):
    _, address = drawing
    whole = {"low": 0, "high": 50, "tracks": ["survival"]}
    stated = {**whole, "proportion": ["survival"], "fitted": ["survival"], "every": 7}
    found = api.client.get(f"{address}/figure", params=stated).json()
    assert [tick["at"] for tick in found["across"]["ticks"][0]][:3] == [0, 7, 14]
    assert found["tracks"][0]["axis"]["form"] == "number"
    plain = api.client.get(f"{address}/figure", params=whole).json()
    assert plain["tracks"][0]["axis"]["form"] == "percent"
    refused = api.client.get(f"{address}/figure", params={**whole, "every": 0})
    assert refused.status_code == 422


def test_a_look_is_kept_in_the_study_undone_and_printed(api, large, drawing):
    found, _ = drawing
    group = found["figure"]["groups"][1]
    assert (group["label"], group["levels"]) == ("b", [{"column": "g", "level": "b"}])

    def printed():
        settings = api.client.get(f"/api/studies/{large}/figures/compare").json()
        figure = {"drawing": found["drawing"], "settings": settings | {"tracks": ["survival"]}}
        made = api.client.post(
            f"/api/studies/{large}/figures", json={"form": "svg", "figures": [figure]}
        )
        assert made.status_code == 200
        return made.text

    assert "#1F6A73".lower() in printed().lower()
    style = {"group": group["key"], "tone": 4, "hidden": ["compare"]}
    assert (
        api.client.put(f"/api/studies/{large}/group-styles/compare", json=style).status_code == 204
    )
    kept = api.client.get(f"/api/studies/{large}").json()["group_styles"]
    assert kept == [{**style, "dash": None, "front": [], "bare": []}]
    assert "#1F6A73".lower() not in printed().lower()
    assert api.client.post(f"/api/studies/{large}/undo").status_code in (200, 204)
    assert api.client.get(f"/api/studies/{large}").json()["group_styles"] == []


def test_a_statement_is_tried_and_nothing_kept(api, large, drawing):
    found, _ = drawing
    before = api.client.get(f"/api/studies/{large}").json()["revision"]
    statement = {"stage": "estimate", "version": 4, "by": "t", "thresholds": [10.0]}
    tried = api.client.post(f"/api/studies/{large}/trial", json=statement)
    assert tried.status_code == 200, tried.text
    groups = ["t ≤ 10.000000", "t > 10.000000"]
    assert [group["label"] for group in tried.json()["figure"]["groups"]] == groups
    assert [one.split(":")[0] for one in tried.json()["readings"]] == groups
    assert api.client.get(f"/api/studies/{large}").json()["revision"] == before
    own = api.client.post(
        f"/api/studies/{large}/trial", json={"stage": "compare", "version": 5, "by": "g"}
    ).json()
    lines = [m for m in own["figure"]["tracks"][0]["marks"] if m["kind"] == "line"]
    whole = [m for m in found["figure"]["tracks"][0]["marks"] if m["kind"] == "line"]
    assert [line["y"] for line in lines] == [line["y"] for line in whole]
    gone = api.client.post(f"/api/studies/{large}/trial", json={**statement, "by": "u"})
    assert (gone.status_code, gone.json()["title"]) == (422, "Not estimable")


def test_a_level_is_named_once_for_all_stages(api):
    study = api.new(demo="lamps")
    groups = api.result(study, "compare")["figure"]["groups"]
    level = groups[0]["levels"][0]
    named = {**level, "name": "of the old make"}
    style = {"group": groups[0]["key"], "tone": 3, "hidden": ["estimate"]}
    assert (
        api.client.put(f"/api/studies/{study}/group-styles/compare", json=style).status_code == 204
    )
    api.put(study, stage="compare", version=5, by=level["column"], contrast=level["level"])
    url = f"/api/studies/{study}/level-names"
    assert api.client.post(url, json=named).status_code == 201
    group_styles = api.client.get(f"/api/studies/{study}").json()["group_styles"]
    assert [(one["group"], one["tone"]) for one in group_styles] == [
        (f"{level['column']}: of the old make", 3)
    ]
    assert api.get(study, "compare")["statement"]["contrast"] == "of the old make"
    again = api.result(study, "compare")["figure"]["groups"]
    assert [g["label"] for g in again] == ["of the old make", groups[1]["label"]]
    twice = {"column": level["column"], "level": "of the old make", "name": groups[1]["label"]}
    refused = api.client.post(url, json=twice)
    assert refused.status_code == 422
    assert "merged in Prepare" in refused.json()["detail"]
    shorter = {"column": level["column"], "level": "of the old make", "name": "old"}
    assert api.client.post(url, json=shorter).status_code == 201
    steps = [s for s in api.prepare(study)["steps"] if "respell" in str(s["step"])]
    assert len(steps) == 1


def test_parts_of_a_track_are_switched_on_the_screen_and_on_paper(api, large, drawing):
    _, address = drawing
    stated = {"low": 0, "high": 60, "tracks": ["survival"]}

    def shades(**more):
        track = api.client.get(f"{address}/figure", params={**stated, **more}).json()["tracks"][0]
        notes = " ".join(part["note"] for part in track["parts"] if part["shown"])
        return [m["part"] for m in track["marks"] if m["kind"] == "area"], notes

    assert shades()[0] == ["difference-band"]
    switched = ["survival/difference-band", "survival/limits"]
    parts, notes = shades(switched=switched)
    assert parts == ["limits", "limits"]
    assert "Grey band" not in notes
    assert "95% CI (pointwise)" in notes
    shown = [{"id": "survival", "switched": ["difference-band", "limits"]}]
    assert api.client.put(f"/api/studies/{large}/tracks/compare", json=shown).status_code == 204
    settings = api.client.get(f"/api/studies/{large}/figures/compare").json()
    assert sorted(settings["switched"]) == switched


def test_settings_are_kept_for_the_figures_of_all_studies(api):
    settings = {"width": 85, "preset": "grey", "font": 7}
    assert api.client.put("/api/figure-presets/our journal", json=settings).status_code == 204
    (kept,) = api.client.get("/api/figure-presets").json()
    assert kept["name"] == "our journal"
    assert settings.items() <= kept["settings"].items()
    assert api.client.put("/api/figure-presets/x", json={"width": 1}).status_code == 422
    assert api.client.delete("/api/figure-presets/our journal").status_code == 204
    assert api.client.get("/api/figure-presets").json() == []
