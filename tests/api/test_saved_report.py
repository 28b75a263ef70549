"""A report to be saved: written as work that can be watched, of what somebody has had computed."""

import time

PROFILE = {"values": [{"column": "age", "value": "70"}]}
TERMS = [{"kind": "number", "column": "age", "unit": 10}]


def until(look, found):
    for _ in range(600):
        reply = look()
        if found(reply):
            return reply
        assert reply["work"], reply
        time.sleep(0.1)
    raise AssertionError(reply)


def test_a_report_on_paper_is_written_beside_and_then_there_at_once(api, client, larkmoor):
    api.result(larkmoor, "estimate")
    until(lambda: api.get(larkmoor, "report.pdf/ready"), lambda reply: reply["ready"])
    begun = time.perf_counter()
    saved = client.get(f"/api/studies/{larkmoor}/report.pdf")
    assert saved.content.startswith(b"%PDF-")
    assert time.perf_counter() - begun < 0.5, "it was written already"
    assert client.get(f"/api/studies/{larkmoor}/report.odt/ready").status_code == 404


def test_what_takes_long_is_named_until_somebody_has_had_it_computed(api, client, larkmoor):
    api.put(larkmoor, stage="model", terms=TERMS, profiles=[PROFILE])
    api.result(larkmoor, "model")

    def printed():
        made = api.result(larkmoor, "report")
        waits = [offer["sentence"] for offer in made["offers"] if "takes long" in offer["sentence"]]
        return waits, any(table["key"] == "model-means" for table in made["tables"])

    def saved():
        return client.get(f"/api/studies/{larkmoor}/report.md").text

    (waits,), there = printed()
    assert waits.startswith("Predicted restricted means")
    assert not there
    assert "before these were computed: Predicted restricted means, with limits (Model)." in saved()
    until(lambda: api.get(larkmoor, "model/parts/means"), lambda reply: reply["result"])
    assert printed() == ([], True)
    assert "Not computed" not in saved()
    api.put(larkmoor, stage="check", question="outliers")
    assert printed() == ([], True), "another question leaves the numbers of Model as they are"
    assert api.lines(larkmoor)["model"][1] == "current"
