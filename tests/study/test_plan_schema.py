"""The schema of plans holds the statements of all stages, and everything that it refers to."""

import json
import re
from pathlib import Path

import jsonschema
import pytest

from hourglass.analysis.registry import STAGES
from hourglass.report.planned import statement_kinds, unusable
from hourglass.study.demos import load_demo
from hourglass.study.in_memory import BlobsInMemory, InMemory
from hourglass.study.plans.document import StudyPlan, plan_of_study
from hourglass.study.plans.schema import plan_schema

SCHEMA = plan_schema(statement_kinds(STAGES))


def test_every_stage_has_a_statement_that_states_its_version():
    variants = SCHEMA["$defs"]["PlannedAnalysis"]["oneOf"]
    stages = [one["properties"]["stage"]["const"] for one in variants]
    assert stages == ["estimate", "compare", "model", "check", "report"]
    for one in variants:
        name = one["properties"]["statement"]["anyOf"][0]["$ref"].rpartition("/")[2]
        statement = SCHEMA["$defs"][name]
        assert statement["required"] == ["version"]
        assert statement["properties"]["version"]["const"] >= 3


def test_whatever_is_referred_to_is_there():
    named = set(re.findall(r'"#/\$defs/([^"]+)"', json.dumps(SCHEMA)))
    assert named
    assert named <= SCHEMA["$defs"].keys()


DOCS = Path(__file__).parents[2] / "docs"


def examples(name):
    """The JSON documents among the examples of a page: blocks of four spaces that open with a brace."""
    blocks = re.findall(r"(?:^ {4}.*\n(?:\n(?= {4}))?)+", (DOCS / name).read_text(), re.MULTILINE)
    whole = [b for b in blocks if b.lstrip().startswith("{")]
    return [b for b in whole if '"name"' in "".join(b.split("\n")[:2])]


@pytest.mark.parametrize("text", examples("plan.md"))
def test_every_example_of_a_plan_is_one(text):
    document = json.loads(text)
    jsonschema.validate(document, json.loads((DOCS / "plan.schema.json").read_text()))
    plan = StudyPlan.model_validate(document)
    assert unusable(plan, STAGES) == []


@pytest.mark.parametrize("demo", ["lamps", "larkmoor", "larkmoor_as_received"])
def test_the_plan_of_each_demo_is_valid_by_the_schema(demo):
    repository = InMemory()
    made, _ = load_demo(repository, BlobsInMemory(), demo)
    for stage in STAGES:
        repository.open_analysis(repository.begin_analysis(made, stage.name, begun=False))
    document = json.loads(plan_of_study(repository.load(made)).model_dump_json())
    jsonschema.validate(document, SCHEMA)
    assert examples("plan.md"), "there is an example to look at"
