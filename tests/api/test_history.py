"""One history of a study over HTTP: what a change was made from, the log, undoing and redoing."""

import json

import pytest

CSV = "id,t,s,g,age\na,5,1,x,40\nb,7,0,y,50\nc,3,1,x,60\nd,9,0,y,70\ne,4,1,y,45\nf,6,0,x,80\n"
MEANINGS = {"1": {"meaning": "event", "name": ""}, "0": {"meaning": "censored", "name": ""}}
SPLIT = {"kind": "split_number", "column": "age", "points": [60], "into": "older"}


@pytest.fixture
def study(api):
    return api.followed(CSV)


def revision(api, study):
    return api.client.get(f"/api/studies/{study}").headers["etag"]


def put(api, study, etag, **statement):
    return api.client.put(
        f"/api/studies/{study}/statement", json=statement, headers={"If-Match": etag}
    )


def move(api, study, way):
    return api.client.post(f"/api/studies/{study}/{way}")


def test_a_change_states_which_revision_it_was_made_from(api, study):
    del api.client.headers["If-Match"]
    try:
        missing = api.client.patch(f"/api/studies/{study}", json={"name": "Other"})
    finally:
        api.client.headers["If-Match"] = "*"
    assert missing.status_code == 428
    assert "If-Match" in missing.json()["detail"]
    hooks = api.client.event_hooks["request"]
    kept, hooks[:] = list(hooks), []
    try:
        every = [
            api.client.request(method, f"/api/studies/{study}{path}", json=body)
            for method, path, body in (
                ("PATCH", "", {"name": "Other"}),
                ("DELETE", "", None),
                ("PUT", "/follow-up", {}),
                ("PUT", "/next-file?name=x", {}),
                ("DELETE", "/extracts/waiting", None),
            )
        ]
        added = api.client.post(f"/api/studies/{study}/undo")
        assert api.client.post(f"/api/studies/{study}/redo").status_code == added.status_code
    finally:
        hooks[:] = kept
    assert [reply.status_code for reply in every] == [428] * 5
    assert added.status_code != 428, "what adds to a study may be made from any revision"
    api.put(study, stage="estimate", confidence=0.95)
    seen = revision(api, study)
    first = put(api, study, seen, stage="estimate", confidence=0.9)
    assert first.status_code == 204
    assert first.headers["etag"] == revision(api, study) != seen
    late = put(api, study, seen, stage="estimate", confidence=0.99)
    assert late.status_code == 412
    assert late.headers["content-type"] == "application/problem+json"
    problem = late.json()
    assert problem["changed"] == ["Level of intervals: 95% → 90%"]
    assert f'"{problem["revision"]}"' == revision(api, study)
    assert api.get(study, "estimate")["statement"]["confidence"] == 0.9
    again = put(api, study, f'"{problem["revision"]}"', stage="estimate", confidence=0.99)
    assert again.status_code == 204


def test_the_log_shows_what_was_changed_from_what_to_what(api, study):
    api.put(study, stage="compare", by="g")
    api.put(study, stage="compare", by="g", confidence=0.9)
    shown = [(d["stage"], d["sentence"]) for d in api.get(study, "decisions")["decisions"]]
    assert ("compare", "Level of intervals: as in Estimate → 90%") in shown
    assert any("1 is the event" in words for stage, words in shown if stage == "prepare")
    assert ("prepare", "File read: rows.csv") in shown
    assert "The event was coded “1” in" in api.report(study), "what codes mean is in the methods"


def test_undo_goes_through_all_stages_and_states_what_it_did(api, study):
    api.result(study, "compare")
    api.client.post(f"/api/studies/{study}/steps", json={"step": SPLIT})
    api.put(study, stage="compare", by="older")
    api.client.patch(f"/api/studies/{study}", json={"name": "Renamed"})
    api.client.put(f"/api/studies/{study}/figures/compare", json={"width": 85})
    tracks = [{"id": "evidence"}, {"id": "curves", "height": 200}]
    sent = api.client.put(f"/api/studies/{study}/tracks/compare", json=tracks)
    assert sent.status_code == 204
    shown = api.client.get(f"/api/studies/{study}").json()["tracks"]["compare"]
    assert [(t["id"], t["height"]) for t in shown] == [("evidence", None), ("curves", 200)]
    moved = [move(api, study, "undo").json() for _ in range(5)]
    assert [m["stage"] for m in moved] == ["compare", "compare", "prepare", "compare", "prepare"]
    assert moved[0]["sentence"] == "Tracks shown: evidence, curves"
    assert moved[3]["sentence"].startswith("Comparison by: ")
    overview = api.client.get(f"/api/studies/{study}").json()
    assert overview["name"] == "A study"
    assert overview["redo"] == "Split age at 60"
    assert overview["tracks"] == {}
    assert "older" not in api.get(study, "rows")["columns"]
    for _ in range(5):
        assert move(api, study, "redo").status_code == 200
    assert move(api, study, "redo").status_code == 409
    assert api.get(study, "compare")["statement"]["by"] == "older"
    assert api.get(study, "figures/compare")["width"] == 85


def test_a_grouping_survives_undoing_and_editing_the_step_that_made_it(api, study):
    step = api.client.post(f"/api/studies/{study}/steps", json={"step": SPLIT})
    assert step.status_code == 201
    api.put(study, stage="compare", by="older", confidence=0.9)
    api.result(study, "compare")
    (placed,) = api.prepare(study)["steps"]
    body = {"step": {**SPLIT, "points": [50]}, "reason": ""}
    api.client.put(f"/api/studies/{study}/steps/{placed['id']}", json=body)
    assert api.get(study, "compare")["statement"]["by"] == "older"
    assert api.client.put(f"/api/studies/{study}/steps", json={"steps": []}).status_code == 204
    without = api.result(study, "compare")
    assert "older" in without["blank"], "it says which column is gone"
    assert api.get(study, "compare")["statement"]["by"] == "older"
    assert move(api, study, "undo").status_code == 200
    assert api.result(study, "compare")["blank"] is None
    move(api, study, "undo")
    found = api.result(study, "compare")
    assert len(found["curves"]) == 2
    assert api.get(study, "compare")["statement"]["confidence"] == 0.9


def test_two_people_at_once_both_stand_where_they_decide_about_different_things(api, study):
    api.put(study, stage="estimate", confidence=0.95)
    seen = revision(api, study)
    first = put(api, study, seen, stage="estimate", confidence=0.9)
    beside = api.client.patch(
        f"/api/studies/{study}", json={"name": "Both"}, headers={"If-Match": seen}
    )
    assert (first.status_code, beside.status_code) == (204, 204)
    assert "x-decided-meanwhile" not in first.headers
    assert beside.headers["x-decided-meanwhile"] == "1"
    overview = api.client.get(f"/api/studies/{study}").json()
    assert (overview["name"], f'"{overview["revision"]}"') == ("Both", beside.headers["etag"])
    assert api.get(study, "estimate")["statement"]["confidence"] == 0.9
    deleted = api.client.delete(f"/api/studies/{study}", headers={"If-Match": seen})
    assert deleted.status_code == 412, "a study is deleted as it was seen, or not at all"
    undone = api.client.post(f"/api/studies/{study}/undo", headers={"If-Match": seen})
    assert undone.status_code == 412
    assert undone.json()["changed"] == [
        "Level of intervals: 95% → 90%",
        "Study renamed: A study → Both",
    ]


@pytest.mark.parametrize("text", ["half \\ud800 a character", "a zero \\u0000 byte"])
def test_words_that_cannot_be_kept_are_refused_wherever_they_stand(api, study, text):
    before = api.get(study, "decisions")
    for field in ("about", "sentence", "reason"):
        body = {"stage": "check", "about": "a", "choice": "b", "sentence": "c", field: "?"}
        refused = api.client.post(
            f"/api/studies/{study}/decisions",
            content=json.dumps(body).replace("?", text),
            headers={"content-type": "application/json"},
        )
        assert refused.status_code == 422, field
    assert api.get(study, "decisions") == before
