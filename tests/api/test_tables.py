"""Further tables over HTTP: added with a proposal, stated, refused, undone, and in every stage."""

import pytest

ROWS = "id,t,s,arm\n" + "".join(
    f"p{k},{5 + 7 * k % 23},{k % 3 % 2},{'ab'[k % 2]}\n" for k in range(24)
)
VISITS = "id,at,pressure\n" + "".join(
    f"p{k},{u},{100 + (13 * k + 7 * u) % 50}\n" for k in range(24) for u in (0, 2, 4)
)
NOW = {"kind": "in force", "into": "pressure now", "column": "pressure"}
HIGH = {
    "kind": "ever",
    "into": "ever high",
    "condition": {"clauses": [{"column": "pressure", "test": "over", "values": ["130"]}]},
}


@pytest.fixture
def study(api):
    return api.followed(ROWS, unit="weeks", subject="id")


def add(api, study, text, name="visits"):
    url = f"/api/studies/{study}/tables/{name}/file?name=visits.csv"
    return api.client.put(url, content=text.encode())


def state(api, study, *covariates, **more):
    stated = {"name": "visits", "key": "id", "at": "at", "covariates": covariates, **more}
    return api.client.put(f"/api/studies/{study}/tables/visits", json=stated)


def test_a_table_is_proposed_stated_and_its_values_stand_in_every_stage(api, study):
    reply = add(api, study, VISITS)
    assert reply.status_code == 204, reply.text
    (table,) = api.get(study, "tables")["tables"]
    assert (table["stated"]["key"], table["stated"]["at"]) == ("id", "at")
    assert table["stated"]["role"] == "dated records"
    assert state(api, study, NOW, HIGH).status_code == 204
    reply = api.get(study, "tables")
    assert reply["blocked"] == []
    (counts,) = reply["counts"]
    assert (counts["rows"], counts["before"], counts["without"]) == (72, 24, 0)
    assert counts["before"] + counts["during"] + counts["late"] == 72
    assert reply["pieces"] > 24
    lines = [
        (line["what"], line["value"], line["rule"])
        for line in api.get(study, "rows/2")["lines"]
        if "after" in line["what"]
    ]
    assert lines == [
        ("after 0 up to 2 weeks", "pressure now 113, ever high no", "from row 4 of visits"),
        ("after 2 up to 4 weeks", "pressure now 127, ever high no", "from row 5 of visits"),
        ("after 4 up to 12 weeks", "pressure now 141, ever high yes", "from row 6 of visits"),
    ]
    api.put(study, stage="compare", version=5, by="ever high")
    result = api.result(study, "compare")
    assert "time-varying groups" in {caution["key"] for caution in result["cautions"]}
    api.put(study, stage="compare", version=5, by="ever high", reference="yes")
    stated = api.get(study, "tables")["tables"][0]["stated"]
    assert [c["reference"] for c in stated["covariates"]] == ["", "yes"], "for every stage"
    assert api.result(study, "compare")["curves"][0]["label"] == "yes"
    terms = [{"kind": "number", "column": "pressure now"}, {"kind": "category", "column": "arm"}]
    profiles = [{"values": [{"column": "arm", "value": "a"}]}]
    api.put(study, stage="model", version=4, terms=terms, profiles=profiles)
    model = api.result(study, "model")
    assert "pressure now changes during follow-up" in str(model["sections"])
    log = api.get(study, "decisions")
    assert (
        "visits: of id, dated at, giving pressure now (in force of pressure), ever high (ever, where "
        in str(log)
    )
    api.client.post(f"/api/studies/{study}/undo")
    api.client.post(f"/api/studies/{study}/undo")
    assert api.client.delete(f"/api/studies/{study}/tables/visits").status_code == 204
    assert api.get(study, "tables")["tables"] == []
    assert api.client.delete(f"/api/studies/{study}/tables/visits").status_code == 404


def test_what_blocks_the_tables_blocks_every_stage_and_a_step_mends_it(api, study):
    add(api, study, VISITS + "q9,1,120\n")
    state(api, study, NOW)
    (block,) = api.get(study, "tables")["blocked"]
    sentence = block["sentence"]
    assert sentence == "1 row of visits whose id no subject has (row 73)."
    assert block["aside"]["rows"] == [73]
    reply = api.client.get(f"/api/studies/{study}/estimate").json()
    assert [block["sentence"] for block in reply["blocked"]] == [sentence]
    away = {
        "kind": "set_aside_where",
        "condition": {"clauses": [{"column": "id", "test": "is", "values": ["q9"]}]},
    }
    url = f"/api/studies/{study}/tables/visits/steps"
    assert api.client.put(url, json={"steps": [away], "reason": "a stray"}).status_code == 204
    assert api.get(study, "tables")["blocked"] == []
    broken = {"kind": "rename_column", "column": "gone", "into": "x"}
    assert api.client.put(url, json={"steps": [broken]}).status_code == 422


def test_a_new_data_extract_of_a_table_keeps_its_statement(api, study):
    add(api, study, VISITS)
    state(api, study, NOW)
    add(api, study, VISITS + "p1,1,111\n")
    (table,) = api.get(study, "tables")["tables"]
    assert table["rows"] == 73
    assert [c["into"] for c in table["stated"]["covariates"]] == ["pressure now"]
    assert len(api.get(study, "extracts")["extracts"]) == 1, "extracts of follow-up alone"
    copy = api.client.post(f"/api/studies/{study}/duplicate", json={"name": "copy"}).json()["id"]
    assert api.get(copy, "tables")["tables"][0]["stated"] == table["stated"]


def test_records_of_a_log_are_the_outcome(api):
    made = api.followed(ROWS, unit="weeks", subject="id")
    assert api.follow_up(made, ended="records", outcome=None, meanings={}).status_code == 204
    reply = api.client.get(f"/api/studies/{made}/estimate").json()
    assert "which of its records are the event" in reply["blocked"][0]["sentence"]
    add(api, made, VISITS)
    high = {"clauses": [{"column": "pressure", "test": "over", "values": ["140"]}]}
    outcomes = [{"name": "high pressure", "condition": high}]
    assert state(api, made, outcomes=outcomes, prevalent_left_out=True).status_code == 204
    reply = api.get(made, "tables")
    assert reply["blocked"] == []
    before = sum(100 + 13 * k % 50 > 140 for k in range(24))
    assert reply["prevalent"] == before
    estimated = api.result(made, "estimate")
    assert estimated["cohort"]["subjects"] == 24 - before
    assert estimated["cohort"]["events"] == sum(
        100 + 13 * k % 50 <= 140
        and any(100 + (13 * k + 7 * u) % 50 > 140 and u <= 5 + 7 * k % 23 for u in (2, 4))
        for k in range(24)
    )
    log = str(api.get(made, "decisions"))
    assert "ending follow-up at high pressure (pressure > 140), those with it" in log
