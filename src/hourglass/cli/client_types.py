"""Documents that state what crosses the edge: the server's OpenAPI document, from which the web client's
types are made when it is built, and the JSON Schema of plans."""

import json
import tempfile
from pathlib import Path

from hourglass.analysis.registry import STAGES
from hourglass.api.app import create_app
from hourglass.api.settings import Settings
from hourglass.cli.machine import WEB
from hourglass.report.planned import statement_kinds
from hourglass.study.plans.schema import plan_schema

DOCUMENT = WEB / "src" / "api" / "openapi.json"
SCHEMA = WEB.parent / "docs" / "plan.schema.json"


def openapi_text() -> str:
    """The server's OpenAPI document, as kept beside the client."""
    with tempfile.TemporaryDirectory() as var:
        document = create_app(Settings(database_url="", var=Path(var))).openapi()
    return json.dumps(document, indent=1, ensure_ascii=False) + "\n"


def schema_text() -> str:
    """The schema of plans, as kept in the documents."""
    return json.dumps(plan_schema(statement_kinds(STAGES)), indent=1, ensure_ascii=False) + "\n"


def write_documents() -> None:
    """Keep both as the program has them now."""
    DOCUMENT.parent.mkdir(parents=True, exist_ok=True)
    DOCUMENT.write_text(openapi_text(), encoding="utf-8")
    SCHEMA.write_text(schema_text(), encoding="utf-8")


def drift() -> str | None:
    """What differs between the program and the kept documents; None when nothing does."""
    for kept, text in ((DOCUMENT, openapi_text()), (SCHEMA, schema_text())):
        if not kept.is_file() or kept.read_text(encoding="utf-8") != text:
            return f"{kept.name} is not what the program says: run ./hourglass client"
    return None
