"""Results, staleness, workings, the report and work under way, over HTTP."""

import csv
import io
import re
import threading
import time
from html import escape
from pathlib import Path

import pytest

from hourglass.analysis.catalogue.weights import WEIGHTS
from hourglass.analysis.registry import STAGES as REGISTERED
from hourglass.analysis.shared.stage import stage_of
from hourglass.core.progress import CancelledError
from hourglass.study.in_process import InProcess
from hourglass.study.plans.document import StudyPlan
from hourglass.study.work import WorkUnderWay

STAGES = ("estimate", "compare", "model", "check", "report")


def test_stages_are_computed_when_looked_at_and_the_stage_list_shows_it(api, lamps):
    assert {v[1] for v in api.lines(lamps).values()} == {"unseen"}
    for stage in STAGES:
        api.result(lamps, stage)
    api.prepare(lamps)
    lines = api.lines(lamps)
    assert {v[1] for v in lines.values()} == {"current"}
    assert lines["estimate"][0] == "median 1\u202f040 hours"
    assert lines["compare"][0] == "log-rank p = 0.115"
    assert lines["model"][0] == "1 term · 13 events"


def test_a_kept_result_is_not_computed_again(api, lamps, runs):
    first = api.result(lamps, "model")

    def never(*_):
        raise AssertionError("computed again")

    runs("model", never)
    assert api.result(lamps, "model") == first


def test_a_change_upstream_puts_later_results_out_of_date(api, larkmoor):
    for stage in STAGES:
        api.result(larkmoor, stage)
    api.put(larkmoor, stage="model", terms=[{"kind": "number", "column": "age", "unit": 10}])
    states = {k: v[1] for k, v in api.lines(larkmoor).items()}
    assert states["estimate"] == states["compare"] == "current"
    assert states["model"] == states["check"] == states["report"] == "out of date"
    assert api.lines(larkmoor)["model"][0] == "out of date", "an old headline is not shown"
    assert len(api.result(larkmoor, "model")["terms"]) == 1
    assert api.lines(larkmoor)["model"][1] == "current"
    assert api.lines(larkmoor)["check"][1] == "out of date"


def test_a_decision_in_prepare_reaches_every_figure(api, larkmoor):
    before = api.result(larkmoor, "estimate")["cohort"]["rows"]
    log = api.get(larkmoor, "decisions")["decisions"]
    child = next(d for d in log if "age" in d["about"])
    api.client.delete(f"/api/studies/{larkmoor}/decisions/{child['id']}")
    assert api.lines(larkmoor)["estimate"][1] == "out of date"
    assert api.result(larkmoor, "estimate")["cohort"]["rows"] == before + 1


def test_the_report_has_its_fonts_inside_and_names_groups_with_their_column(api, client, larkmoor):
    api.result(larkmoor, "compare")
    html = client.get(f"/api/studies/{larkmoor}/report.html").text
    assert "drops extended" in html
    assert "events in drops standard where" in html
    assert html.count("data:font/woff2;base64,") == 5
    page = client.get(f"/api/studies/{larkmoor}/report.html")
    assert "font-src data:" in page.headers["content-security-policy"]


def test_the_chosen_times_reach_compare_and_report(api, lamps):
    api.put(lamps, stage="estimate", times=[600])
    assert [p["time"] for p in api.result(lamps, "compare")["curves"][0]["points"]] == [600]
    assert "survival at 600" in api.report(lamps)


def test_a_caution_accepted_stands_in_the_report_with_its_reason(api, larkmoor):
    body = {
        "stage": "check",
        "about": "not proportional: vessels",
        "choice": "keep",
        "sentence": "Keep one ratio for vessels",
        "reason": "an average is the question",
    }
    assert api.client.post(f"/api/studies/{larkmoor}/decisions", json=body).status_code == 201
    pieces = {piece["key"]: piece for piece in api.result(larkmoor, "report")["pieces"]}
    rows = [[cell["text"] for cell in row] for row in pieces["decisions"]["tables"][0]["rows"]]
    assert ["Check", "Keep one ratio for vessels", body["reason"]] in [row[:3] for row in rows]


def test_the_plan_of_a_study_holds_what_stands(api, client, larkmoor):
    saved = client.get(f"/api/studies/{larkmoor}/plan.json")
    assert 'filename="Larkmoor corneal grafts plan.json"' in saved.headers["content-disposition"]
    plan = StudyPlan.model_validate_json(saved.content)
    assert plan.follow_up.event_name == "rejection"
    assert any(p.reason == "Spaces and capitals only." for p in plan.steps)
    assert {a.stage for a in plan.analyses} >= {"estimate", "compare", "model"}
    empty = StudyPlan.model_validate_json(client.get(f"/api/studies/{api.new()}/plan.json").content)
    assert (empty.made_on, empty.steps, empty.analyses) == (None, (), ())


def test_a_report_shows_a_kept_model_and_another_report_does_not(api, client, larkmoor):
    api.result(larkmoor, "model")
    statement = api.get(larkmoor, "model")["statement"]
    age = {"kind": "number", "column": "age"}
    kept = [{"letter": "A", "model": {"terms": [age]}, "note": "age alone"}]
    api.put(larkmoor, **{**statement, "kept": kept})
    body = {"stage": "report", "name": "Of model A"}
    made = client.post(f"/api/studies/{larkmoor}/analyses", json=body).json()["id"]
    put = client.put(
        f"/api/studies/{larkmoor}/statement",
        params={"analysis": made},
        json={"stage": "report", "version": 3, "model": "A"},
    )
    assert put.status_code == 204, put.text

    def shown(where):
        reply = api.get(larkmoor, where)
        while reply["work"]:
            reply = api.get(larkmoor, where)
        return reply["result"]

    def ratios(where):
        tables = [t for piece in shown(where)["pieces"] for t in piece["tables"]]
        (table,) = (t for t in tables if t["key"] == "ratios")
        return [row[0]["text"] for row in table["rows"]]

    assert ratios(f"report?analysis={made}") == ["age"]
    assert len(ratios("report")) > 1
    gone = {**api.get(larkmoor, "model")["statement"], "kept": []}
    api.put(larkmoor, **gone)
    assert "model A, which is gone" in shown(f"report?analysis={made}")["sentence"]["text"]
    assert client.delete(f"/api/studies/{larkmoor}/analyses/{made}").status_code == 204


def test_the_report_is_saved_as_one_file_and_its_tables_as_csv(api, client, larkmoor):
    assert client.get(f"/api/studies/{larkmoor}/tables/checks.csv").status_code == 404
    api.result(larkmoor, "check")
    page = client.get(f"/api/studies/{larkmoor}/report.html")
    assert page.status_code == 200
    assert 'filename="Larkmoor corneal grafts report.html"' in page.headers["content-disposition"]
    assert "default-src 'none'" in page.headers["content-security-policy"]
    shown = api.result(larkmoor, "report")
    assert all(piece["title"]["text"] in page.text for piece in shown["pieces"])
    assert [form["key"] for form in shown["forms"]] == ["html", "pdf", "docx", "md", "xlsx"]
    unknown = client.get(f"/api/studies/{larkmoor}/report.exe")
    assert unknown.status_code == 404
    assert "html, pdf, docx, md, xlsx" in unknown.json()["detail"]
    for key in ("rows", "groups", "ratios", "checks"):
        table = client.get(f"/api/studies/{larkmoor}/tables/{key}.csv")
        assert table.status_code == 200
        assert table.content.startswith(b"\xef\xbb\xbf")
        assert len(table.text.splitlines()) > 2
    assert client.get(f"/api/studies/{larkmoor}/tables/secrets.csv").status_code == 404


def test_the_report_prints_only_what_somebody_opened_or_requested(api):
    study = api.new()
    rows = "".join(f"{3 + k * 5 % 19},{k % 2},{'ab'[k % 3 == 0]}\n" for k in range(40))
    api.upload(study, "t,s,g\n" + rows)
    clock = {"kind": "duration", "column": "t"}
    meanings = {"0": {"meaning": "censored"}, "1": {"meaning": "event"}}
    api.follow_up(study, clock=clock, outcome="s", meanings=meanings)
    heads = {"estimate": "follow-up", "compare": "groups", "model": "ratios", "check": "checks"}
    opened = []
    for stage in (None, "estimate", "model", "check", "compare"):
        if stage is not None:
            api.result(study, stage)
            opened.append(stage)
        made = api.result(study, "report")
        for name, head in heads.items():
            there = name in opened or (name == "compare" and "estimate" in opened)
            printed = [piece["key"] for piece in made["pieces"]]
            assert (head in printed) == there, (opened, name)
        assert [o["stage"] for o in made["offers"]] == [s for s in heads if s not in opened]
        lines = api.lines(study)
        assert {s for s in heads if lines[s][0] == "not opened yet"} == set(heads) - set(opened)
        assert lines["report"][1] == "current"


@pytest.mark.parametrize(
    ("path", "words"),
    [
        ("estimate/workings/survival?t=750", "(1 − 1/24)"),
        ("compare/workings/survival?t=750&group=0", "Ostrey"),
        ("estimate/workings/quantile?q=0.5", "all lamps"),
        ("compare/workings/quantile?group=1", "Vane"),
        ("compare/workings/log-rank", "χ²"),
        ("model/workings/hazard-ratio?column=0", "exp(β̂)"),
    ],
)
def test_workings_are_made_on_request_page_by_page(api, client, lamps, path, words):
    sheet = api.part(lamps, path)
    assert words in sheet["title"] + " ".join(sheet["formula"])
    assert len(sheet["rows"]) == sheet["total"]
    assert sheet["total"] in (5, 6, 7)
    assert all(len(row) == len(sheet["head"]) for row in sheet["rows"])
    more = "&" if "?" in path else "?"
    page = api.part(lamps, f"{path}{more}first=2&most=2")
    assert (page["first"], page["rows"]) == (2, sheet["rows"][2:4])
    address, _, query = path.partition("?")
    saved = client.get(f"/api/studies/{lamps}/{address}.csv?{query}")
    lines = list(csv.reader(io.StringIO(saved.text.removeprefix("\ufeff"))))[1:]
    raw = [["" if c["raw"] is None else str(c["raw"]) for c in row] for row in sheet["rows"]]
    assert lines == raw, "what is saved is what stands behind what is shown"


@pytest.mark.parametrize(
    ("path", "status"),
    [
        ("estimate/workings/survival?t=-1", 422),
        ("estimate/workings/survival?t=nan", 422),
        ("estimate/workings/survival", 422),
        ("estimate/workings/survival?t=1&mystery=2", 422),
        ("compare/workings/median?group=7", 404),
        ("model/workings/hazard-ratio?column=5", 404),
        ("compare/workings/sundial", 404),
        ("compare/parts/sundial", 404),
        ("compare?analysis=99999", 404),
    ],
)
def test_workings_of_nothing_are_refused(client, lamps, path, status):
    refused = client.get(f"/api/studies/{lamps}/{path}")
    assert refused.status_code == status
    assert refused.json()["detail"]


def test_a_term_on_a_missing_column_is_an_answer_not_an_error(api, lamps):
    step = {"kind": "new_column", "name": "gone", "formula": "hours + 1"}
    assert api.client.post(f"/api/studies/{lamps}/steps", json={"step": step}).status_code == 201
    api.put(lamps, stage="model", terms=[{"kind": "number", "column": "gone", "unit": 1}])
    api.rename_column(lamps, "gone", "elsewhere")
    assert "no column called" in api.result(lamps, "model")["blank"]
    assert "nothing to check" in api.result(lamps, "check")["blank"]
    assert "There is no model yet" in api.report(lamps)


def test_studies_are_renamed_and_deleted(api, client):
    study = api.new("Old name")
    done = client.patch(f"/api/studies/{study}", json={"name": " New name "})
    assert done.status_code == 204
    names = [s["name"] for s in client.get("/api/studies").json()["studies"]]
    assert "New name" in names
    assert client.delete(f"/api/studies/{study}").status_code == 204
    assert client.get(f"/api/studies/{study}").status_code == 404


class TestWork:
    def test_slow_work_answers_with_a_handle_and_can_be_watched(self, api, client, lamps, runs):
        go = threading.Event()

        def slow(cohort, stated, progress):
            while not go.wait(0.01):
                progress("thinking hard", 0.4)
            return stage_of(REGISTERED, "estimate").numbers.of(cohort, stated, progress)

        runs("estimate", slow)
        reply = api.get(lamps, "estimate")
        assert reply["result"] is None
        assert (reply["work"]["what"], reply["work"]["share"]) == ("thinking hard", 0.4)
        again = api.get(lamps, "estimate")
        assert again["work"]["id"] == reply["work"]["id"], "the same work is not begun twice"
        assert client.get(f"/api/work/{reply['work']['id']}").json()["share"] == 0.4
        assert client.get("/api/health").json()["database"] == "ready", "others are answered"
        go.set()
        assert api.result(lamps, "estimate")["curve"]["subjects"] == 24
        # It ends a moment after what it has made can be had.
        end = time.monotonic() + 10
        while client.get(f"/api/work/{reply['work']['id']}").json() is not None:
            assert time.monotonic() < end

    def test_cancelled_work_stops_and_keeps_nothing(self, api, client, lamps, runs):
        stopped = threading.Event()

        def endless(cohort, stated, progress):
            try:
                while True:
                    progress("for ever", 0.1)
                    time.sleep(0.01)
            except CancelledError:
                stopped.set()
                raise

        runs("estimate", endless)
        work = api.get(lamps, "estimate")["work"]["id"]
        assert client.delete(f"/api/work/{work}").status_code == 204
        assert stopped.wait(20)
        assert api.lines(lamps)["estimate"][1] == "unseen"
        assert client.delete("/api/work/unknown").status_code == 204

    def test_a_fault_in_work_is_sent_to_every_waiter_and_work_can_begin_again(self):
        under_way, executor = WorkUnderWay(), InProcess(1)

        def faulty(progress):
            raise ValueError("no")

        first = under_way.start(("k",), faulty, executor)
        with pytest.raises(ValueError, match="no"):
            first.future.result(20)
        second = under_way.start(("k",), lambda progress: 7, executor)
        assert second.future.result(20) == 7
        executor.close()


def test_a_reference_level_chosen_in_one_stage_holds_in_all(api, lamps):
    api.put(lamps, stage="compare", by="maker", reference="Vane")
    assert api.result(lamps, "compare")["curves"][0]["label"] == "Vane"
    ratios = api.result(lamps, "model")["terms"][0]["coefficients"]
    assert [(c["label"], c["against"]) for c in ratios] == [("Ostrey", "Vane")]
    steps = [s["name"] for s in api.prepare(lamps)["steps"]]
    assert steps == ["maker: compare with Vane"]
    again = {"kind": "category", "column": "maker", "reference": "Ostrey"}
    api.put(lamps, stage="model", terms=[again])
    assert api.result(lamps, "compare")["curves"][0]["label"] == "Ostrey"
    assert [s["name"] for s in api.prepare(lamps)["steps"]] == ["maker: compare with Ostrey"]
    nobody = {"stage": "compare", "by": "maker", "reference": "nobody"}
    refused = api.client.put(f"/api/studies/{lamps}/statement", json=nobody)
    assert (refused.status_code, refused.json()["title"]) == (422, "No such level")
    assert api.result(lamps, "compare")["curves"][0]["label"] == "Ostrey"


@pytest.mark.parametrize("weight", ["log-rank", "Tarone–Ware", "Fleming–Harrington 0, 1"])
def test_a_weight_reaches_sentence_result_workings_and_report(api, larkmoor, weight):
    words = WEIGHTS[weight]
    api.put(larkmoor, stage="compare", by="drops", weight=weight)
    found = api.result(larkmoor, "compare")
    assert f"by the {words.name} test, with" in found["sentence"]["text"]
    assert found["test_name"] == words.test
    (section,) = [s for s in found["sections"] if s["id"] == "test"]
    assert section["title"] == f"{words.heading} test"
    sheet = api.part(larkmoor, "compare/workings/log-rank")
    assert sheet["title"].startswith(f"{words.heading}: χ² ")
    assert sheet["note"] == words.rests_on
    assert any("W = √n" in line for line in sheet["formula"]) == (weight == "Tarone–Ware")
    report = api.report(larkmoor)
    assert f"({words.test} χ²" in report
    assert f"by the {words.name} test" in report
    assert all(escape(source.full) in report for source in words.sources)


def test_every_file_that_find_offers_is_there(client, larkmoor):
    source = Path(__file__).parents[2] / "web" / "src" / "frame" / "FindByName.tsx"
    listed = source.read_text("utf-8").partition("const FILES = [")[2].partition("] as const")[0]
    offered = re.findall(r'\["([^"]+)", ', listed)
    assert "plan.json" in offered
    for name in offered:
        assert client.get(f"/api/studies/{larkmoor}/{name}").status_code == 200, name


def test_views_of_a_stage_have_letters_names_and_readings_beside_each_other(api, client, larkmoor):
    api.result(larkmoor, "estimate")

    def views():
        stages = client.get(f"/api/studies/{larkmoor}").json()["stages"]
        return next(s["analyses"] for s in stages if s["stage"] == "estimate")

    first = views()[0]["id"]
    body = {"stage": "estimate", "copy_of": first}
    made = client.post(f"/api/studies/{larkmoor}/analyses", json=body).json()["id"]
    statement = {**api.get(larkmoor, "estimate")["statement"], "by": "vessels"}
    put = client.put(
        f"/api/studies/{larkmoor}/statement", params={"analysis": made}, json=statement
    )
    assert put.status_code == 204, put.text
    address = f"/api/studies/{larkmoor}/estimate/beside?analyses={first}&analyses={made}"
    reply = client.get(address).json()
    while reply["work"]:
        reply = client.get(address).json()
    tables = {s["title"]: s["blocks"][0] for s in reply["sections"]}
    times = tables["Time to rejection, months"]
    assert times["head"] == ["", "A", "B"]
    rows = {row[0]["text"]: [cell["text"] for cell in row[1:]] for row in times["rows"]}
    assert rows["median, time"] == ["52.0", "—"]
    assert [(v["letter"], v["view"], v["title"]) for v in views()] == [
        ("A", "estimate", "Curves for all subjects"),
        ("B", "estimate B", "Curves for each group of vessels"),
    ]
    assert client.get(address.replace(f"={made}", "=0")).status_code == 404
    assert client.get(f"/api/studies/{larkmoor}/estimate/beside?analyses=1").status_code == 422
    client.delete(f"/api/studies/{larkmoor}/analyses/{made}")
    assert [v["title"] for v in views()] == [""]
    refused = client.delete(f"/api/studies/{larkmoor}/analyses/{first}")
    assert (refused.status_code, refused.json()["type"]) == (409, "urn:hourglass:only-analysis")
