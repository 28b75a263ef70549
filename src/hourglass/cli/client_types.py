"""The web client's types, generated from the server's OpenAPI document."""

import json
import subprocess
import tempfile
from pathlib import Path

from hourglass.api.app import create_app
from hourglass.api.settings import Settings
from hourglass.cli.machine import WEB, npm_packages

DOCUMENT = WEB / "src" / "api" / "openapi.json"
TYPES = WEB / "src" / "api" / "schema.d.ts"


def openapi_text() -> str:
    """The server's OpenAPI document, as kept beside the client."""
    with tempfile.TemporaryDirectory() as var:
        document = create_app(Settings("", Path(var))).openapi()
    return json.dumps(document, indent=1, ensure_ascii=False) + "\n"


def write_client_types() -> None:
    """Write the document and the types made from it."""
    DOCUMENT.parent.mkdir(parents=True, exist_ok=True)
    DOCUMENT.write_text(openapi_text(), encoding="utf-8")
    TYPES.write_text(_types(DOCUMENT), encoding="utf-8")


def drift() -> str | None:
    """What differs between the server and the client's types; None when nothing does."""
    if not DOCUMENT.is_file() or DOCUMENT.read_text(encoding="utf-8") != openapi_text():
        return f"{DOCUMENT.name} is not what the server says: run ./hourglass client"
    if TYPES.read_text(encoding="utf-8") != _types(DOCUMENT):
        return f"{TYPES.name} is not made from {DOCUMENT.name}: run ./hourglass client"
    return None


def _types(document: Path) -> str:
    environment = npm_packages()
    done = subprocess.run(
        ["npx", "--no-install", "openapi-typescript", str(document)],
        cwd=WEB,
        check=True,
        capture_output=True,
        text=True,
        env=environment,
    )
    return done.stdout
