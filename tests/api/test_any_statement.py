"""Whatever statement is sent, it is refused in words or every stage answers it."""

import json
import threading

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from examples import examples
from hourglass.core.comparison.weights import WEIGHTS

COLUMNS = ["drops", "vessels", "age", "donor_cells", "centre", "graft_no", "outcome", "gone", ""]
columns = st.sampled_from(COLUMNS)
words = st.one_of(st.sampled_from(["standard", "none", "yes", ""]), st.text(max_size=5))
numbers = st.one_of(st.floats(), st.integers(-3, 100), st.sampled_from([0.95, 10, 1e-300, 1e300]))
terms = st.one_of(
    st.fixed_dictionaries({"kind": st.just("category"), "column": columns, "reference": words}),
    st.fixed_dictionaries({"kind": st.just("number"), "column": columns, "unit": numbers}),
    st.fixed_dictionaries({"kind": st.just("doubling"), "column": columns}),
)
functions = st.sampled_from(["one minus survival", "time", "log time", "rank", "sundial"])
statements = st.one_of(
    st.fixed_dictionaries(
        {
            "stage": st.just("estimate"),
            "times": st.lists(numbers, max_size=4),
            "confidence": numbers,
        }
    ),
    st.fixed_dictionaries(
        {
            "stage": st.just("compare"),
            "by": st.one_of(st.none(), columns),
            "reference": st.one_of(st.none(), words),
            "contrast": st.one_of(st.none(), words),
            "weight": st.sampled_from([*(w.key for w in WEIGHTS), "sundial"]),
        }
    ),
    st.fixed_dictionaries({"stage": st.just("model"), "terms": st.lists(terms, max_size=3)}),
    st.fixed_dictionaries({"stage": st.just("check"), "time_function": functions}),
    st.fixed_dictionaries(
        {"stage": st.just("report"), "title": words, "left_out": st.lists(words, max_size=3)}
    ),
)


@pytest.fixture(scope="module")
def study(api):
    return api.new(demo="larkmoor")


@settings(
    max_examples=examples(25),
    deadline=None,
    suppress_health_check=[HealthCheck.function_scoped_fixture],
)
@given(statement=statements)
def test_a_statement_is_refused_in_words_or_answered(api, study, statement):
    sent = api.client.put(
        f"/api/studies/{study}/statement",
        content=json.dumps(statement),
        headers={"content-type": "application/json"},
    )
    assert sent.status_code in (204, 422), sent.text
    if sent.status_code == 422:
        assert sent.json()["detail"]
        return
    for stage in ("compare", "model", "check", statement["stage"]):
        result = api.result(study, stage)
        assert result["headline"]
        assert result["sentence"]["text"]


@pytest.mark.parametrize("text", ["zero \\u0000 byte", "half \\ud800 a character"])
def test_text_that_cannot_be_kept_is_refused_and_nothing_is_changed(api, study, text):
    headers = {"content-type": "application/json"}
    before = api.client.get(f"/api/studies/{study}").json()["name"]
    for method, path, body in (
        ("PATCH", f"/api/studies/{study}", f'{{"name": "{text}"}}'),
        ("PUT", f"/api/studies/{study}/statement", f'{{"stage": "report", "title": "{text}"}}'),
        (
            "POST",
            f"/api/studies/{study}/decisions",
            f'{{"stage": "check", "about": "a", "choice": "b", "sentence": "c", "reason": "{text}"}}',
        ),
    ):
        refused = api.client.request(method, path, content=body, headers=headers)
        assert refused.status_code == 422, refused.text
        assert refused.json()["detail"]
    assert api.client.get(f"/api/studies/{study}").json()["name"] == before


def test_many_readers_at_once_get_one_and_the_same_answer(api, study):
    api.put(study, stage="model", terms=[{"kind": "number", "column": "age", "unit": 10}])
    found = []
    readers = [
        threading.Thread(target=lambda: found.append(api.result(study, "model"))) for _ in range(8)
    ]
    for reader in readers:
        reader.start()
    for reader in readers:
        reader.join()
    assert len(found) == 8
    assert all(one == found[0] for one in found)


def test_people_deciding_at_once_are_kept_or_sent_to_reload(api):
    made = api.new(demo="larkmoor_as_received")
    done = {}

    def decide(finding):
        done[finding] = api.decide(made, finding, "set aside", finding).status_code

    found = [
        f["key"]
        for f in api.prepare(made)["findings"]
        if "set aside" in [c["name"] for c in f["choices"]]
    ]
    deciders = [threading.Thread(target=decide, args=(key,)) for key in found]
    for one in deciders:
        one.start()
    for one in deciders:
        one.join()
    # One decision can take away the rows of another: that one is refused, and not half kept.
    assert set(done.values()) <= {201, 409, 412}
    kept = {finding for finding, status in done.items() if status == 201}
    assert kept
    logged = api.get(made, "decisions")["decisions"]
    assert {d["reason"] for d in logged if d["kind"] == "finding decided"} == kept
    ledger = api.prepare(made)["ledger"]
    assert [loss["why"] for loss in ledger["lost"]]


def test_a_large_body_is_heard_out_and_the_server_goes_on(api):
    made = api.new("Large")
    half = api.client.build_request(
        "PUT", f"/api/studies/{made}/file?name=x.csv", content=(b"x" * 65536 for _ in range(64))
    )
    assert api.client.send(half).status_code == 413
    assert api.client.get("/api/health").json()["database"] == "ready"


def test_a_study_renamed_while_open_puts_only_the_report_out_of_date(api):
    made = api.new(demo="lamps")
    for stage in ("estimate", "report"):
        api.result(made, stage)
    api.client.patch(f"/api/studies/{made}", json={"name": "Other lamps"})
    lines = api.lines(made)
    assert lines["estimate"][1] == "current"
    assert lines["report"][1] == "out of date"
    assert "Other lamps" in api.report(made)
