"""Uploading, the follow-up statement, findings and decisions, over HTTP."""

import pytest

CSV = "id,t,s,g\na,5,1,x\nb,7,0,y\nc,-1,0,x\nd,9,,y\nd,9,0,y\n"
MEANINGS = {"1": {"meaning": "event", "name": ""}, "0": {"meaning": "censored", "name": ""}}
CLOCK = {"kind": "duration", "column": "t"}


@pytest.fixture
def study(api):
    made = api.new()
    assert api.upload(made, CSV).status_code == 204
    return made


def test_a_new_study_waits_for_its_file(api, client):
    study = api.new("Empty")
    assert api.get(study, "prepare")["reply"]["blocked"] == []
    assert api.lines(study)["prepare"] == ("choose a file", "unseen", "")
    assert api.lines(study)["estimate"][1] == "blocked"
    blocked = api.get(study, "estimate")["blocked"]
    assert "no file yet" in blocked[0]["sentence"]
    for call in (
        client.get(f"/api/studies/{study}/rows"),
        client.put(f"/api/studies/{study}/statement", json={"stage": "check"}),
    ):
        assert call.status_code == 409
        assert "no file yet" in call.json()["detail"]


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "empty"),
        (b"a,b\n", "no rows"),
        (b"\x00\x01\x02", "binary data file"),
        (b"a,b\n1,2\n3" + b",4" * 60 + b"\n", "Row 2"),
    ],
)
def test_a_bad_file_is_refused_in_words_and_the_study_is_as_before(api, data, words):
    study = api.new("Before")
    refused = api.upload(study, data)
    assert refused.status_code == 422
    assert words in refused.json()["detail"]
    assert api.client.get(f"/api/studies/{study}").json()["file"] is None
    assert api.upload(study, CSV).status_code == 204, "and takes a good file still"


def test_a_file_over_the_limit_is_refused(api):
    study = api.new()
    refused = api.upload(study, b"a\n" + b"1\n" * 600_000)
    assert refused.status_code == 413
    assert "at most 1 MB" in refused.json()["detail"]
    assert api.client.get(f"/api/studies/{study}").json()["file"] is None


def test_a_second_file_is_refused_once_something_depends_on_the_first(api, study):
    assert api.upload(study, CSV.replace("5", "6"), "rows.csv").status_code == 204
    api.follow_up(study, clock=CLOCK, outcome="s", meanings=MEANINGS)
    refused = api.upload(study, "x\n1\n", "other.csv")
    assert refused.status_code == 409
    assert api.client.get(f"/api/studies/{study}").json()["file"]["name"] == "rows.csv"


def test_hostile_names_come_back_as_they_are(api):
    study = api.new()
    name = '"><img src=x onerror=alert(1)>.csv'
    column = "<img src=x onerror=alert(1)>"
    assert api.upload(study, f"{column},t,s\n=cmd,1,1\n", name).status_code == 204
    found = api.prepare(study)
    assert found["columns"][0]["name"] == column
    assert api.client.get(f"/api/studies/{study}").json()["file"]["name"] == name


def test_nothing_is_assumed_until_every_code_has_a_meaning(api, study):
    assert api.prepare(study)["ledger"]["analysed"] is None
    assert api.follow_up(study, clock=CLOCK, outcome="s", meanings=MEANINGS).status_code == 204
    sentences = [b["sentence"] for b in api.get(study, "model")["blocked"]]
    assert any("A blank is not taken for censored" in s for s in sentences)
    assert any("negative time" in s for s in sentences)
    assert api.client.get(f"/api/studies/{study}/report.html").status_code == 409


def test_a_code_that_is_not_there_cannot_be_given_a_meaning(api, study):
    api.follow_up(study, clock=CLOCK, outcome="s")
    refused = api.follow_up(study, meanings={"9": MEANINGS["1"]})
    assert refused.status_code == 422
    assert "“9”" in refused.json()["detail"]


def test_findings_are_decided_one_by_one_until_rows_can_be_analysed(api, study):
    api.follow_up(study, clock=CLOCK, outcome="s", meanings=MEANINGS, subject="id")
    keys = [f["key"] for f in api.prepare(study)["findings"]]
    assert keys == ["end before start", "blank outcome", "entered twice: id d"]
    done = api.decide(study, "blank outcome", "set aside", "notes lost")
    assert done.status_code == 201
    assert done.json()["sentence"] == "s is blank in 1 row: set aside"
    fix = [{"row": 3, "column": "t", "value": "1"}]
    fixed = api.decide(study, "end before start", "correct", corrections=fix)
    assert "row 3, t now 1" in fixed.json()["sentence"]
    found = api.prepare(study)
    assert found["findings"] == []
    ledger = found["ledger"]
    assert [(loss["why"], loss["rows"]) for loss in ledger["lost"]] == [("blank outcome", 1)]
    assert (ledger["read"], ledger["analysed"]) == (5, 4)
    assert api.result(study, "estimate")["cohort"]["rows"] == 4


def test_a_kept_finding_is_decided_and_can_be_taken_back(api, study):
    api.follow_up(study, clock=CLOCK, outcome="s", meanings=MEANINGS, subject="id")
    twice = "entered twice: id d"
    made = api.decide(study, twice, "keep", "twins").json()
    assert twice not in [f["key"] for f in api.prepare(study)["findings"]]
    gone = api.client.delete(f"/api/studies/{study}/decisions/{made['id']}")
    assert gone.status_code == 204
    assert twice in [f["key"] for f in api.prepare(study)["findings"]]
    (log,) = [d for d in api.get(study, "decisions")["decisions"] if d["kind"] == "finding decided"]
    assert log["gone_at"] is not None
    assert log["reason"] == "twins"


@pytest.mark.parametrize(
    ("finding", "choice", "corrections", "status", "words"),
    [
        ("no such finding", "keep", [], 409, "reload"),
        ("end before start", "keep", [], 409, "reload"),
        ("end before start", "correct", [], 422, "Write the right value"),
        ("end before start", "correct", [("1", "t", "2")], 422, "not one of the cells"),
        ("end before start", "correct", [("3", "g", "2")], 422, "not one of the cells"),
        ("end before start", "correct", [("-1", "t", "2")], 422, "not one of the cells"),
        ("end before start", "correct", [(str(2**70), "t", "2")], 422, "not one of the cells"),
        ("end before start", "correct", [("3", "t", "soon")], 422, "“soon” is not a number"),
    ],
)
def test_decisions_that_do_not_fit_change_nothing(
    api, study, finding, choice, corrections, status, words
):
    api.follow_up(study, clock=CLOCK, outcome="s", meanings=MEANINGS)
    before = api.get(study, "decisions")
    cells = [{"row": int(r), "column": c, "value": v} for r, c, v in corrections]
    refused = api.decide(study, finding, choice, corrections=cells)
    assert refused.status_code == status
    assert words in refused.json()["detail"]
    assert api.get(study, "decisions") == before


def test_rows_are_read_by_page_or_by_number(api, study):
    page = api.get(study, "rows?first=3&most=2")
    assert page["columns"] == ["id", "t", "s", "g"]
    assert [(r["number"], r["cells"][0]) for r in page["rows"]] == [(4, "d"), (5, "d")]
    assert page["total"] == 5
    some = api.get(study, "rows?numbers=5&numbers=1&numbers=77")
    assert [r["number"] for r in some["rows"]] == [1, 5]
    assert some["total"] == 2


def test_a_statement_broken_by_a_step_is_not_hidden(api, study):
    assert api.follow_up(study, clock=CLOCK).status_code == 204
    api.rename_column(study, "t", "elsewhere")
    assert any("called t" in block["sentence"] for block in api.prepare(study)["blocks"])
    assert api.follow_up(study, event_name="felled").status_code == 204, "the rest may be changed"
