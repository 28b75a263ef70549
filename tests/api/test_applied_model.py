"""A model of one study on the rows of another, over HTTP."""

import csv
import io

import numpy as np
import pytest

from making import PLANNED_FOLLOW_UP


def rows(seed, n=90):
    random = np.random.default_rng(seed)
    age = random.integers(20, 90, n)
    t = random.exponential(40 * np.exp(-0.02 * (age - 50)))
    return "\n".join(["t,s,age", *(f"{t[k]:.2f},{int(k % 4 > 0)},{age[k]}" for k in range(n))])


def study_of(api, client, text, analyses=()):
    study = api.new()
    api.upload(study, text)
    plan = {
        "name": "A plan",
        "dated": "2026-01-01",
        "follow_up": PLANNED_FOLLOW_UP,
        "analyses": list(analyses),
    }
    assert client.put(f"/api/studies/{study}/plan-in-place", json=plan).status_code == 201
    return study


@pytest.fixture
def own(api, client):
    age = {"kind": "number", "column": "age"}
    kept = [{"letter": "A", "model": {"terms": [{**age, "unit": 10}]}}]
    statement = {"version": 4, "terms": [age], "kept": kept}
    return study_of(api, client, rows(1), [{"stage": "model", "statement": statement}])


def applied(client, study, **query):
    place = f"/api/studies/{study}/applied-model"
    reply = client.get(place, params=query)
    while reply.status_code == 200 and reply.json()["work"]:
        reply = client.get(place, params=query)
    return reply


def test_the_model_shown_or_one_that_is_kept_is_applied(api, client, own):
    other = study_of(api, client, rows(2, 60))
    shown = applied(client, own, to=other, time=20).json()["applied"]
    kept = applied(client, own, to=other, time=20, letter="A").json()["applied"]
    assert (shown["result"]["model"], kept["result"]["model"]) == ("age per 1", "age per 10")
    assert shown["svg"].startswith("<svg")
    text = {
        row[0]["text"]: row[1]["raw"] for row in shown["result"]["sections"][0]["blocks"][0]["rows"]
    }
    assert text["Rows that it is applied to"] == 60
    assert text["Observed events"] == 45
    saved = client.get(f"/api/studies/{own}/applied-model.csv", params={"to": other, "time": 20})
    lines = list(csv.DictReader(io.StringIO(saved.content.decode("utf-8-sig"))))
    assert len(lines) == 60
    older = max(lines, key=lambda line: float(line["age"]))
    younger = min(lines, key=lambda line: float(line["age"]))
    name = "predicted survival at 20"
    assert float(older[name]) < float(younger[name])


def test_what_cannot_be_applied_gives_the_reason(api, client, own):
    other = study_of(api, client, "t,s,weight\n1,1,50\n2,0,60\n3,1,70")
    blank = applied(client, own, to=other).json()["applied"]["result"]["blank"]
    assert "there is no column called “age”" in blank
    saved = client.get(f"/api/studies/{own}/applied-model.csv", params={"to": other})
    assert (saved.status_code, saved.json()["type"]) == (409, "urn:hourglass:not-applied")
    missing = applied(client, own, to=other, letter="Z")
    assert (missing.status_code, missing.json()["detail"]) == (404, "No model Z is kept.")
    waiting = applied(client, own, to=api.new())
    assert (waiting.status_code, waiting.json()["type"]) == (409, "urn:hourglass:waits-for-prepare")
