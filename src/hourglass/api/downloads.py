"""Files to be saved: named after the study and what they hold."""

import re
from typing import Literal
from urllib.parse import quote

from fastapi.responses import Response

from hourglass.analysis.shared.cell import Raw
from hourglass.report.tables import csv_of

Between = Literal["commas", "tabs"]
"""What stands between the values of a line."""

MAX_NAME_CHARACTERS = 80
NOT_IN_NAMES = re.compile(r"[^\w.()+-]+")


def download(data: bytes | str, media: str, study: str, name: str) -> Response:
    """A file to be saved as "study, name", both kept to what any file system takes."""
    kind = f"{media}; charset=utf-8" if media.startswith("text/") else media
    return Response(data, media_type=kind, headers={"Content-Disposition": attachment(study, name)})


def lines_between(between: Between, lines: list[list[Raw]], study: str, name: str) -> Response:
    """Lines as a file of comma-separated text to be saved, or with tabs between for the clipboard."""
    if between == "tabs":
        return Response(csv_of(lines, "\t"), media_type="text/tab-separated-values")
    return download("\ufeff" + csv_of(lines), "text/csv", study, f"{name}.csv")


def attachment(study: str, name: str) -> str:
    """The header that names a file; other letters than ASCII are written the standard's way (RFC 6266)."""
    full = f"{file_name(study)[:MAX_NAME_CHARACTERS]} {file_name(name)}".strip()
    plain = full.encode("ascii", "replace").decode().replace("?", "_")
    return f"attachment; filename=\"{plain}\"; filename*=UTF-8''{quote(full)}"


def file_name(words: str) -> str:
    """Words without what file systems refuse."""
    return " ".join(NOT_IN_NAMES.sub(" ", words).split()).strip(". ")
