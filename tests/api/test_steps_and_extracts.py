"""Steps, data extracts and what is taken out, over HTTP."""

import csv
import io
import json
import time

import pyarrow as pa
import pytest
from pyarrow import parquet

HEAD = "id,t,s,age,arm,note\n"
ROWS = [
    f"p{k:02d},{k % 17 + 1},{k % 3 and 1},{40 + k},{'ab'[k % 2]},{'=1+1' if k == 3 else 'x'}\n"
    for k in range(40)
]
MEANINGS = {"0": {"meaning": "censored", "name": ""}, "1": {"meaning": "event", "name": ""}}
SPLIT = {"kind": "split_number", "column": "age", "points": [60], "into": "older"}
ON_SPLIT = {"kind": "respell_levels", "column": "older", "spelling": {"under 60": "young"}}


@pytest.fixture
def study(api):
    return api.followed(HEAD + "".join(ROWS), subject="id")


def take(api, study, step, **more):
    body = {"step": step, "reason": "as planned", **more}
    return api.client.post(f"/api/studies/{study}/steps", json=body)


def arrange(api, study, steps):
    body = {"steps": [{"id": s["id"], "active": s["active"]} for s in steps]}
    return api.client.put(f"/api/studies/{study}/steps", json=body)


def move(api, study, way):
    return api.client.post(f"/api/studies/{study}/{way}").status_code


def table_of(api, study):
    return api.get(study, "rows?most=500")


def steps(api, study):
    return api.prepare(study)["steps"]


def compared(api, study):
    """The data extracts, once the one that waits has been compared."""
    found = api.get(study, "extracts")
    while found["work"]:
        found = api.get(study, "extracts")
    return found


def test_what_is_not_there_is_refused_where_it_is_named(api, study):
    def refused(done):
        assert done.status_code == 422
        return done.json()["detail"]

    by = {"stage": "compare", "version": 5, "by": "arm"}
    url = f"/api/studies/{study}/statement"
    assert "no column called “nowhere”" in refused(
        api.client.put(url, json={**by, "by": "nowhere"})
    )
    assert (
        refused(api.client.put(url, json={**by, "contrast": "z"}))
        == "There is no level “z” of arm."
    )
    assert "no column called “nowhere”" in refused(api.follow_up(study, outcome="nowhere"))
    for rows in ([9999], [1, 9999]):
        step = {"kind": "set_aside", "rows": rows, "why": "x"}
        assert "ow 9\u202f999 cannot be found" in refused(take(api, study, step))
    assert steps(api, study) == []


def test_steps_are_tried_taken_edited_and_a_later_one_that_breaks_states_so_and_stays(api, study):
    tried = api.client.post(f"/api/studies/{study}/steps/preview", json={"step": SPLIT}).json()[
        "preview"
    ]
    assert [(b["label"], b["rows"], b["events"]) for b in tried["bands"]] == [
        ("under 60", 20, 13),
        ("60 and over", 20, 13),
    ]
    assert steps(api, study) == []
    assert take(api, study, SPLIT).json()["sentence"] == "Split age at 60"
    assert take(api, study, ON_SPLIT).status_code == 201
    first, second = steps(api, study)
    assert (first["made"], second["made"], second["broken"]) == ("2 levels", "2 levels", "")
    other = {**SPLIT, "into": "band"}
    edited = api.client.put(
        f"/api/studies/{study}/steps/{first['id']}", json={"step": other, "reason": ""}
    )
    assert edited.status_code == 201
    broken = steps(api, study)[1]
    assert "no column called “older”" in broken["broken"]
    assert "older" in api.get(study, "model")["blocked"][0]["sentence"], "nothing is shown as if"
    off = [{**s, "active": s["id"] != broken["id"]} for s in steps(api, study)]
    assert arrange(api, study, off).status_code == 204
    assert api.result(study, "estimate")["cohort"]["rows"] == 40
    assert [d["gone_at"] is None for d in log(api, study)] == [False, True, True]


def test_a_step_that_does_not_fit_is_refused_and_nothing_is_recorded(api, study):
    refused = take(api, study, {**SPLIT, "column": "arm"})
    assert refused.status_code == 422
    assert "does not hold numbers" in refused.json()["detail"]
    assert steps(api, study) == []
    strange = api.client.post(f"/api/studies/{study}/steps", json={"step": {"kind": "dance"}})
    assert strange.status_code == 422


def test_undoing_gives_back_the_identical_table_and_redoing_too(api, study):
    seen = [table_of(api, study)]
    aside = {
        "kind": "set_aside_where",
        "condition": {"clauses": [{"column": "age", "test": "over", "values": ["70"]}]},
    }
    for step in (SPLIT, ON_SPLIT, aside, {"kind": "new_column", "name": "z", "formula": "age / t"}):
        assert take(api, study, step).status_code == 201
        seen.append(table_of(api, study))
    for before in reversed(seen[:-1]):
        assert move(api, study, "undo") == 200
        assert table_of(api, study) == before
    assert all(d["gone_at"] for d in log(api, study))
    for after in seen[1:]:
        assert move(api, study, "redo") == 200
        assert table_of(api, study) == after
    assert move(api, study, "redo") == 409
    move(api, study, "undo")
    take(api, study, {"kind": "mark_missing", "column": "age", "values": ["41"]})
    assert move(api, study, "redo") == 409, "what was undone is gone once something else is done"


def log(api, study):
    """The decisions about steps."""
    every = api.get(study, "decisions")["decisions"]
    return [d for d in every if d["kind"] in ("step taken", "step edited")]


def test_steps_move_and_go(api, study):
    halve = {"kind": "transform", "column": "age", "by": "per", "per": 2, "into": "age"}
    take(api, study, halve)
    take(api, study, {**SPLIT, "points": [30]})
    one, two = steps(api, study)
    before = table_of(api, study)
    assert arrange(api, study, [two, one]).status_code == 204
    assert table_of(api, study) != before, "the split now sees the ages as they are in the file"
    assert arrange(api, study, [two, {"id": 10**9, "active": True}]).status_code == 409
    assert arrange(api, study, [one]).status_code == 204
    assert [s["name"] for s in steps(api, study)] == ["age: per 2"]
    assert [d["gone_at"] is None for d in log(api, study)] == [True, False]


def old_form(step):
    """A step as documents of version 1 had it."""
    return {**step, "kind": step["kind"].replace("split_number", "cut_number")}


def test_a_plan_goes_out_and_makes_the_same_cohort_of_the_same_file(api, study):
    for step in (SPLIT, {"kind": "set_aside_repeats", "key": ["t", "arm"]}):
        take(api, study, step)
    plan = api.client.get(f"/api/studies/{study}/steps.json")
    body = json.loads(plan.text)
    assert (body["format"], body["version"]) == ("olden-hourglass steps", 2)
    assert [s["reason"] for s in body["steps"]] == ["as planned"] * 2
    other = api.new("Another")
    api.upload(other, HEAD + "".join(ROWS))
    assert api.client.put(f"/api/studies/{other}/steps.json", json=body).status_code == 201
    assert table_of(api, other) == table_of(api, study)
    one, two = (api.result(s, "estimate") | {"drawing": ""} for s in (study, other))
    assert one == two
    first = {
        **body,
        "version": 1,
        "steps": [{**s, "step": old_form(s["step"])} for s in body["steps"]],
    }
    assert api.client.put(f"/api/studies/{other}/steps.json", json=first).status_code == 201
    assert table_of(api, other) == table_of(api, study), "a document of version 1 says the same"
    wrong = api.client.put(f"/api/studies/{other}/steps.json", json={**body, "version": 3})
    assert wrong.status_code == 422


def test_saved_steps_find_their_rows_in_another_file_and_keep_their_reasons(api, study):
    take(api, study, {"kind": "set_aside", "rows": [2], "why": "entered twice"})
    body = json.loads(api.client.get(f"/api/studies/{study}/steps.json").text)
    other = api.new("Another")
    api.upload(other, HEAD + ROWS[-1] + ROWS[0] + ROWS[1])
    assert api.client.put(f"/api/studies/{other}/steps.json", json=body).status_code == 201
    (step,) = steps(api, other)
    assert step["step"]["rows"] == [3], "the second row of one file is the third of the other"
    assert log(api, other)[-1]["reason"] == "as planned"
    third = api.new("A third")
    api.upload(third, HEAD + ROWS[0])
    assert api.client.put(f"/api/studies/{third}/steps.json", json=body).status_code == 201
    assert [s["active"] for s in steps(api, third)] == [False]
    text = json.dumps(api.get(third, "decisions"))
    assert "1 step names rows that are not all in this file" in text


def reading(api, study, recipe=None):
    """How the file is read, or would be by another recipe."""
    url = f"/api/studies/{study}/file/reading"
    while True:
        sent = api.client.get(url) if recipe is None else api.client.post(url, json=recipe)
        assert sent.status_code == 200, sent.text
        if sent.json()["work"] is None:
            return sent.json()["reading"]


def test_evidence_and_preview_are_those_of_the_whole_file(api):
    study = api.new()
    lines = [f"{k},0{k % 9 + 1}/0{k % 8 + 1}/2020,{k % 2}" for k in range(600)]
    lines[550] = "550,25/01/2020,1"
    api.upload(study, "id,d,s\n" + "\n".join(lines) + "\n")
    shown = reading(api, study)
    assert "dates, day first" in {e["found"] for e in shown["evidence"]}
    numbers = [row["number"] for row in shown["page"]["rows"]]
    assert numbers == [1, 2, 3, 4, 5, 6, 598, 599, 600], "the head and the tail"
    again = reading(api, study, {**shown["recipe"], "century_from": 1950})
    assert "dates, day first" in {e["found"] for e in again["evidence"]}
    assert [c["kind"] for c in again["columns"]] == ["number", "date", "number"]


def test_a_file_read_otherwise_is_one_export_and_can_be_undone(api):
    study = api.new()
    api.upload(study, "a;b\n1;2,5\n3;4,75\n")
    recipe = {**reading(api, study)["recipe"], "header": 0}
    assert api.client.put(f"/api/studies/{study}/file/reading", json=recipe).status_code == 204
    assert table_of(api, study)["total"] == 3
    (only,) = api.get(study, "extracts")["extracts"]
    assert only["current"]
    move(api, study, "undo")
    assert table_of(api, study)["total"] == 2
    assert len(api.get(study, "extracts")["extracts"]) == 1


def test_a_file_is_read_otherwise_with_a_preview(api):
    study = api.new()
    api.upload(study, "a;b\n1;2,5\n3;4,75\n")
    shown = reading(api, study)
    assert (shown["recipe"]["decimal"], shown["how"]) == (
        ",",
        "read as UTF-8, semicolon, decimal comma",
    )
    assert {e["about"] for e in shown["evidence"]} >= {"encoding", "delimiter", "decimal"}
    other = {**shown["recipe"], "decimal": "."}
    seen = reading(api, study, other)
    assert [c["kind"] for c in seen["columns"]] == ["number", "text"]
    assert api.prepare(study)["columns"][1]["kind"] == "number", "a preview changes nothing"
    url = f"/api/studies/{study}/file/reading"
    assert api.client.put(url, json={**shown["recipe"], "header": 0}).status_code == 204
    assert table_of(api, study)["total"] == 3
    refused = api.client.put(url, json={**shown["recipe"], "header": 9})
    assert (refused.status_code, "no line 9" in refused.json()["detail"]) == (422, True)


def send_next(api, study, text, name="next.csv"):
    url = f"/api/studies/{study}/next-file"
    return api.client.put(url, params={"name": name}, content=text.encode())


def test_an_event_that_is_gone_and_an_earlier_last_contact_stand_before_mere_changes(api):
    study = api.new()
    rows = [[f"p{k}", 10 + k, k % 2, "a"] for k in range(150)]
    head = "id,weeks,died,arm\n"
    api.upload(study, head + "".join(",".join(map(str, r)) + "\n" for r in rows))
    meanings = {"1": {"meaning": "event", "name": ""}, "0": {"meaning": "censored", "name": ""}}
    clock = {"kind": "duration", "column": "weeks"}
    api.follow_up(study, clock=clock, outcome="died", meanings=meanings, subject="id")
    for k, row in enumerate(rows):
        row[3] = "b"  # 150 mere changes
        row[2] = 0 if k < 120 else row[2]
        row[1] -= 5 if k == 149 else 0
    sent = send_next(api, study, head + "".join(",".join(map(str, r)) + "\n" for r in rows))
    assert sent.status_code == 204
    found = compared(api, study)
    graver = found["comparison"]["graver"]
    assert [g["what"] for g in graver] == ["the event is gone"] * 60 + ["follow-up ends earlier"]
    assert graver[0] == {
        "who": "p1", "column": "died", "before": "1", "after": "0", "what": "the event is gone",
    }  # fmt: skip
    assert found["comparison"]["changed"] == 150


def test_a_new_export_is_compared_accepted_and_the_old_one_stays(api, study):
    aside = {"kind": "set_aside", "rows": [3, 40], "why": "withdrew consent"}
    take(api, study, aside)
    take(api, study, {"kind": "correct_cell", "row": 6, "column": "age", "value": "99"})
    before = api.result(study, "estimate")
    new = [r.replace("p05,6,1,45", "p05,6,1,46") for r in reversed(ROWS[:39])] + [
        "n1,20,1,50,a,x\n"
    ]
    assert send_next(api, study, HEAD + "".join(ROWS)).status_code == 409, "the same data"
    assert send_next(api, study, HEAD + "".join(new)).status_code == 204
    assert api.get(study, "prepare")["waiting"] is True
    assert api.result(study, "estimate") == before, "nothing changes until it is accepted"
    found = compared(api, study)
    shown = found["comparison"]
    assert (shown["new"], shown["gone"], shown["changed"]) == (1, 1, 1)
    assert (shown["new_rows"], shown["gone_rows"]) == (["n1"], ["p39"])
    assert shown["changed_cells"] == [
        {"who": "p05", "column": "age", "before": "45", "after": "46"}
    ]
    assert shown["not_found"] == [
        "“Set aside: withdrew consent” named 1 row that the new data extract does not have."
    ]
    pairs = {h["stage"]: (h["before"], h["after"]) for h in shown["headlines"]}
    assert pairs["Prepare"] == ("38 of 40 rows kept", "39 of 40 rows kept")
    assert pairs["Estimate"][0] == before["headline"]
    waiting = next(c["id"] for c in found["extracts"] if not c["accepted"])
    assert api.client.post(f"/api/studies/{study}/extracts/{waiting}/current").status_code == 204
    page = table_of(api, study)
    people = {r["cells"][0]: r["cells"] for r in page["rows"]}
    assert "p02" not in people, "the person set aside is still set aside, wherever the row is now"
    assert people["p05"][3] == "99", "and the corrected cell still corrected"
    assert "n1" in people
    old = next(c["id"] for c in api.get(study, "extracts")["extracts"] if not c["current"])
    assert api.client.post(f"/api/studies/{study}/extracts/{old}/current").status_code == 204
    assert api.result(study, "estimate") == before


def test_a_export_that_is_refused_leaves_no_trace(api, study):
    send_next(api, study, HEAD + "".join(ROWS[:10]))
    send_next(api, study, HEAD.replace("age,", "") + "p1,1,1,a,x\n")
    shown = compared(api, study)
    assert len(shown["extracts"]) == 2, "a newer one takes the place of the one that waits"
    assert shown["comparison"]["columns_gone"] == ["age"]
    assert api.client.delete(f"/api/studies/{study}/extracts/waiting").status_code == 204
    assert len(api.get(study, "extracts")["extracts"]) == 1
    assert api.client.post(f"/api/studies/{study}/extracts/999999/current").status_code == 404


def test_layouts_are_confirmed_by_a_person(api):
    study = api.new()
    api.upload(study, "weeks,failed,withdrawn\n1,3,1\n2,0,2\n3,5,0\n4,2,6\n")
    guesses = api.prepare(study)["layouts"]
    assert [g["layout"] for g in guesses] == ["counts at times", "one row each"]
    url = f"/api/studies/{study}/layout"
    assert api.client.post(url, json={"layout": "periods"}).status_code == 409
    assert (
        api.client.post(url, json={"layout": "counts at times", "reason": "stated so"}).status_code
        == 201
    )
    found = api.prepare(study)
    assert found["layouts"] == []
    assert found["ledger"]["standing_for"] is None, (
        "how many were still at risk is a question first"
    )
    assert api.decide(study, "still at risk at the end", "set aside").status_code == 201
    assert api.prepare(study)["ledger"]["standing_for"] == 19
    assert api.result(study, "estimate")["cohort"]["rows"] == 19
    assert api.lines(study)["prepare"][0] == "6 of 7 rows kept"


def test_the_prepared_table_goes_out_harmless_and_reversibly(api, study):
    take(api, study, {"kind": "label_column", "column": "age", "label": "Age", "unit": "years"})
    take(api, study, SPLIT)
    get = api.client.get
    harmless = list(csv.DictReader(io.StringIO(get(f"/api/studies/{study}/prepared.csv").text)))
    exact = list(
        csv.DictReader(io.StringIO(get(f"/api/studies/{study}/prepared.csv?cells=exact").text))
    )
    assert harmless[3]["note"] == "'=1+1"
    assert exact[3]["note"] == harmless[3]["note"][1:] == "=1+1"
    assert [float(r["time followed"]) for r in exact] == [k % 17 + 1 for k in range(40)]
    assert exact[1]["how it ended"] == "the event"
    beside = get(f"/api/studies/{study}/prepared.csv?values=curve").text
    read_off = list(csv.DictReader(io.StringIO(beside)))
    assert all(0 <= float(row["survival at its own time"]) <= 1 for row in read_off)
    assert len(read_off) == len(harmless)
    terms = [{"kind": "number", "column": "age"}]
    put = {"stage": "model", "version": 4, "terms": terms}
    assert api.client.put(f"/api/studies/{study}/statement", json=put).status_code == 204
    data = get(f"/api/studies/{study}/prepared.parquet?values=model").content
    fitted = parquet.read_table(pa.BufferReader(data)).to_pydict()
    assert sum(fitted["martingale residual"]) == pytest.approx(0, abs=1e-9)
    assert len(fitted["scaled Schoenfeld residual of age"]) == 40
    data = get(f"/api/studies/{study}/prepared.parquet").content
    kept = parquet.read_table(pa.BufferReader(data))
    assert kept.num_rows == 40
    assert kept.schema.field("age").metadata == {b"label": b"Age", b"unit": b"years"}
    book = {
        r["name"]: r
        for r in csv.DictReader(io.StringIO(get(f"/api/studies/{study}/codebook.csv").text))
    }
    assert book["older"]["levels"] == "under 60 | 60 and over"
    assert book["older"]["origin"] == "made by step 2: Split age at 60"
    assert book["age"]["origin"].startswith("read from the file; changed by step 1")
    assert book["time followed"]["origin"] == "made by the follow-up statement"


def test_the_ledger_goes_out_as_figure_and_text(api, study):
    take(api, study, {"kind": "set_aside", "rows": [1, 2], "why": "<b>no</b>"})
    text = api.client.get(f"/api/studies/{study}/ledger.txt").text
    assert text.splitlines() == [
        "Rows read, set aside and analysed",
        "40  40 read",
        "38  −2 <b>no</b>",
        "38  38 analysed",
    ]
    figure = api.client.get(f"/api/studies/{study}/ledger.svg").text
    assert "&lt;b&gt;no&lt;/b&gt;" in figure
    assert figure.count("<rect") == 3
    assert api.client.get(f"/api/studies/{study}/ledger.exe").status_code == 404


def test_describe_answers_and_goes_out(api, study):
    found = api.get(study, "describe?by=arm")["result"]
    assert [g["label"] for g in found["groups"]] == ["All rows", "a", "b"]
    assert api.client.get(f"/api/studies/{study}/describe.csv?by=arm").text.startswith(
        "column,what"
    )
    waits = api.new()
    api.upload(waits, "a,b\n1,2\n")
    assert api.client.get(f"/api/studies/{waits}/describe").status_code == 409


def test_a_column_of_another_name_is_taken_for_the_old_one_when_an_export_is_accepted(api):
    study = api.new()
    rows = [f"p{k},{10 + k},{k % 2},{'ab'[k % 2]}" for k in range(40)]
    api.upload(study, "id,weeks,died,arm\n" + "\n".join(rows) + "\n")
    meanings = {"1": {"meaning": "event", "name": ""}, "0": {"meaning": "censored", "name": ""}}
    api.follow_up(study, outcome="died", meanings=meanings, subject="id")
    more = [*rows, "q1,70,1,a"]
    assert send_next(api, study, "id,weeks,dead,arm\n" + "\n".join(more) + "\n").status_code == 204
    found = compared(api, study)["comparison"]
    assert [(r["was"], r["now"]) for r in found["renamed"]] == [("died", "dead")]
    assert found["headlines"][0]["after"] == "There is no column called died."
    names = {"was": "died", "now": "dead"}
    url = f"/api/studies/{study}/extracts"
    for _ in range(100):
        reply = api.client.get(url, params=names).json()
        if reply["comparison"] is not None:
            break
        time.sleep(0.05)
    assert reply["comparison"]["headlines"][0]["after"] == "41 of 41 rows kept"
    (waiting,) = [e["id"] for e in reply["extracts"] if not e["accepted"]]
    strange = api.client.post(f"{url}/{waiting}/current", params={"was": "died", "now": "nobody"})
    assert (strange.status_code, "nobody" in strange.json()["detail"]) == (422, True)
    assert api.client.post(f"{url}/{waiting}/current", params=names).status_code == 204
    steps = api.prepare(study)["steps"]
    assert [step["name"] for step in steps] == ["dead is named died"]
    assert api.result(study, "estimate")["cohort"]["rows"] == 41


def test_a_finding_that_codes_the_outcome_and_a_step_that_fills_a_slot_are_one_decision_each(api):
    study = api.new()
    rows = [f"p{k},{10 + k}{'+' if k % 3 == 0 else ''},{'ab'[k % 2]}" for k in range(40)]
    api.upload(study, "id,days,arm\n" + "\n".join(rows) + "\n")
    assert api.decide(study, "marks in times: days", "marked censored").status_code == 201
    follow_up = api.client.get(f"/api/studies/{study}/prepare").json()["follow_up"]
    assert follow_up["clock"] == {"kind": "duration", "column": "days"}
    assert follow_up["outcome"] == "days, how it ended"
    key = "which is the event: days, how it ended"
    made = api.decide(study, key, "event event")
    assert made.status_code == 201
    assert api.result(study, "estimate")["cohort"]["events"] == 26
    assert len(api.get(study, "decisions")["decisions"]) == 3, "the file, the marks, the codes"
    api.client.post(f"/api/studies/{study}/undo")
    follow_up = api.client.get(f"/api/studies/{study}/prepare").json()["follow_up"]
    assert follow_up["meanings"] == {}
