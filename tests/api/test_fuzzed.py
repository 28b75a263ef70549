"""Requests that are almost right, and some that are absurd: each is answered, none by a fault."""

from itertools import islice

import pytest

from hourglass.cli.load.requests import Requests


@pytest.mark.parametrize("demo", ["lamps", "larkmoor_as_received"])
def test_no_request_is_answered_by_a_fault(api, demo):
    study = api.new(demo=demo)
    prepared = api.prepare(study)
    follow_up = api.get(study, "prepare")["follow_up"]
    known = {
        "study_id": [study],
        "text": ["0", "1", *(column["name"] for column in prepared["columns"])],
        "analysis_id": [1, 2],
        "step_id": [1],
        "number": [1, 5],
        "group": [0, 1],
    }
    bodies = {
        "put /api/studies/{study_id}/follow-up": [follow_up],
        "put /api/studies/{study_id}/plan-in-place": [api.get(study, "plan.json")],
        "put /api/studies/{study_id}/steps.json": [api.get(study, "steps.json")],
    }
    interface = api.client.get("/api/openapi.json").json()
    for made in islice(Requests(interface, known, bodies, seed=24), 250):
        reply = api.client.request(made.method, made.path, headers=made.headers, content=made.body)
        assert reply.status_code < 500, (made, reply.text)
