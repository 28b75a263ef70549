"""The schema of plans holds the statements of all stages, and everything that it refers to."""

import json
import re

from hourglass.analysis.registry import STAGES
from hourglass.report.planned import statement_kinds
from hourglass.study.plans.schema import plan_schema

SCHEMA = plan_schema(statement_kinds(STAGES))


def test_every_stage_has_a_statement_that_says_its_version():
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
