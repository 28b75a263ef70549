"""The JSON Schema of plans, the statements of all stages in it."""

from collections.abc import Mapping
from typing import Any

from hourglass.analysis.shared.statement import StageStatement
from hourglass.study.plans.document import StudyPlan


def plan_schema(kinds: Mapping[str, type[StageStatement]]) -> dict[str, Any]:
    """What a plan may hold; ``kinds`` are the types of statements by stage."""
    schema = StudyPlan.model_json_schema()
    known: dict[str, Any] = schema["$defs"]
    planned = known["PlannedAnalysis"]
    variants = []
    for stage, kind in kinds.items():
        statement = kind.model_json_schema()
        known |= statement.pop("$defs", {})
        known[kind.__name__] = {**statement, "required": ["version"]}
        fields = {
            **planned["properties"],
            "stage": {"const": stage},
            "statement": {"anyOf": [{"$ref": f"#/$defs/{kind.__name__}"}, {"maxProperties": 0}]},
        }
        variants.append({**planned, "title": f"Planned{kind.__name__}", "properties": fields})
    known["PlannedAnalysis"] = {"description": planned["description"], "oneOf": variants}
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **schema}
