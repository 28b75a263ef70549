"""The server's OpenAPI document, from which the web client's types are made when it is built."""

import json
import tempfile
from pathlib import Path

from hourglass.api.app import create_app
from hourglass.api.settings import Settings
from hourglass.cli.machine import WEB

DOCUMENT = WEB / "src" / "api" / "openapi.json"


def openapi_text() -> str:
    """The server's OpenAPI document, as kept beside the client."""
    with tempfile.TemporaryDirectory() as var:
        document = create_app(Settings(database_url="", var=Path(var))).openapi()
    return json.dumps(document, indent=1, ensure_ascii=False) + "\n"


def write_document() -> None:
    """Keep the document as the server has it now."""
    DOCUMENT.parent.mkdir(parents=True, exist_ok=True)
    DOCUMENT.write_text(openapi_text(), encoding="utf-8")


def drift() -> str | None:
    """What differs between the server and the kept document; None when nothing does."""
    if DOCUMENT.is_file() and DOCUMENT.read_text(encoding="utf-8") == openapi_text():
        return None
    return f"{DOCUMENT.name} is not what the server says: run ./hourglass client"
