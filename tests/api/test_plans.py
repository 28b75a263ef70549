"""A plan over HTTP: before the data, set against a file, sealed, refused."""

import json
from datetime import UTC, datetime

import pytest

from hourglass.study.plans.document import StudyPlan
from making import PLANNED_FOLLOW_UP

ROWS = "t,s,arm\n" + "".join(f"{k + 1},{k % 2},{'ab'[k % 3 == 0]}\n" for k in range(30))
PLAN = {
    "name": "Before the data",
    "dated": "2026-01-01",
    "follow_up": PLANNED_FOLLOW_UP,
    "analyses": [{"stage": "compare", "statement": {"version": 5, "by": "arm"}}],
}


@pytest.fixture
def planned(api, client):
    """A study with the plan, sealed, and then its file."""
    study = api.new()
    put = client.put(f"/api/studies/{study}/plan-in-place", json=PLAN)
    assert put.status_code == 201, put.text
    assert client.post(f"/api/studies/{study}/plan-fit", json=PLAN).json() == {
        "fit": None,
        "work": None,
    }
    assert client.post(f"/api/studies/{study}/seal").status_code == 201
    api.upload(study, ROWS.encode(), "rows.csv")
    return study


def test_what_was_planned_before_the_data_is_made_of_them(api, client, planned):
    assert api.result(planned, "compare")["groups"]
    place = client.get(f"/api/studies/{planned}/plan-in-place").json()
    assert (place["applied"], place["departures"]) == ("Before the data", [])
    assert place["words"] == "Nothing departs from it."
    report = api.result(planned, "report")
    (piece,) = (p for p in report["pieces"] if p["key"] == "plan")
    text = [p["text"] for p in piece["paragraphs"]]
    assert place["sha256"] in text[0]
    assert "before the data were read" in text[0]
    assert text[1] == "Nothing departs from it."
    (point,) = (p for p in report["checklist"] if p["key"] == "planned")
    assert (point["state"], point["piece"]) == ("reported", "plan")
    sealed = client.get(f"/api/studies/{planned}/sealed-plan.json").content
    assert not StudyPlan.model_validate_json(sealed).seal_broken


def test_the_report_shows_what_departs_from_the_plan(api, client, planned):
    statement = api.get(planned, "compare")["statement"]
    api.put(planned, **{**statement, "confidence": 0.9})
    (piece,) = (p for p in api.result(planned, "report")["pieces"] if p["key"] == "plan")
    rows = [[cell["text"] for cell in row] for row in piece["tables"][0]["rows"]]
    assert [row[:3] for row in rows] == [["Compare: level of intervals", "as in Estimate", "90%"]]
    place = client.get(f"/api/studies/{planned}/plan-in-place").json()
    assert place["words"] == "1 thing departs from it."


def test_a_plan_is_set_against_a_file_before_it_is_applied(client, planned):
    other = {**PLAN, "analyses": [{"stage": "compare", "statement": {"version": 5, "by": "sex"}}]}
    before = client.get(f"/api/studies/{planned}/plan-in-place").json()
    found = client.post(f"/api/studies/{planned}/plan-fit", json=other).json()["fit"]
    assert [line["part"] for line in found["lines"]] == ["Follow-up", "Compare"]
    assert found["words"] == "1 of 2 parts does not fit the file as it is."
    assert "sex" in found["lines"][1]["why"]
    assert client.get(f"/api/studies/{planned}/plan-in-place").json() == before


@pytest.mark.parametrize(
    ("change", "kind", "text"),
    [
        ({"analyses": [{"stage": "guess"}]}, "unusable-plan", "“guess” is none of"),
        ({"figures": {"compare": {"width": "wide"}}}, "unusable-plan", "Figure of compare, width"),
        ({"tracks": {"compare": [{"foo": 1}]}}, "invalid", "tracks.compare"),
        (
            {"sealed": {"at": "2026-01-01T00:00:00Z", "sha256": "0" * 64}},
            "broken-seal",
            "changed after it had been sealed",
        ),
    ],
)
def test_a_plan_that_cannot_be_used_is_refused_with_a_sentence(api, client, change, kind, text):
    study = api.new()
    put = client.put(f"/api/studies/{study}/plan-in-place", json={**PLAN, **change})
    assert put.status_code == 422
    assert put.json()["type"] == f"urn:hourglass:{kind}"
    assert text in put.json()["detail"]
    assert json.loads(client.get(f"/api/studies/{study}/plan.json").content)["analyses"] == []


def test_a_plan_that_came_sealed_states_so(api, client):
    sealed = StudyPlan.model_validate_json(json.dumps(PLAN)).sealed_at(
        datetime(2025, 5, 1, tzinfo=UTC)
    )
    study = api.new()
    api.upload(study, ROWS, "rows.csv")
    put = client.put(f"/api/studies/{study}/plan-in-place", json=sealed.model_dump(mode="json"))
    assert put.status_code == 201, put.text
    (piece,) = (p for p in api.result(study, "report")["pieces"] if p["key"] == "plan")
    text = piece["paragraphs"][0]["text"]
    assert text.startswith(
        "The plan came sealed, by its own word on 1 May 2025 at 00:00 UTC; it was put in place on "
    )
    assert "UTC, after the data were read." in text
    assert client.put(f"/api/studies/{study}/plan-in-place", json=PLAN).status_code == 201
    (piece,) = (p for p in api.result(study, "report")["pieces"] if p["key"] == "plan")
    assert piece["paragraphs"][0]["text"] == text, "another plan is no other seal"


def test_an_analysis_begun_beside_the_sealed_plan_is_shown_at_once(api, client, planned):
    api.result(planned, "report")
    body = {"stage": "compare", "name": "Another"}
    made = client.post(f"/api/studies/{planned}/analyses", json=body).json()["id"]
    put = client.put(
        f"/api/studies/{planned}/statement",
        params={"analysis": made},
        json={"stage": "compare", "version": 5, "by": "arm", "confidence": 0.8},
    )
    assert put.status_code == 204, put.text
    (piece,) = (p for p in api.result(planned, "report")["pieces"] if p["key"] == "plan")
    rows = [[cell["text"] for cell in row] for row in piece["tables"][0]["rows"]]
    assert [row[:3] for row in rows] == [["Compare, 2", "", "made beside the plan"]]
