"""Files to be saved: named after the study and what they hold."""

import re
from urllib.parse import quote

from fastapi.responses import Response

LONGEST = 80
NOT_IN_NAMES = re.compile(r"[^\w.()+-]+")


def download(data: bytes | str, media: str, study: str, name: str) -> Response:
    """A file to be saved as "study, name", both kept to what any file system takes."""
    kind = f"{media}; charset=utf-8" if media.startswith("text/") else media
    return Response(data, media_type=kind, headers={"Content-Disposition": attachment(study, name)})


def attachment(study: str, name: str) -> str:
    """The header that names a file; other letters than ASCII are said the standard's way (RFC 6266)."""
    full = f"{file_name(study)[:LONGEST]} {file_name(name)}".strip()
    plain = full.encode("ascii", "replace").decode().replace("?", "_")
    return f"attachment; filename=\"{plain}\"; filename*=UTF-8''{quote(full)}"


def file_name(words: str) -> str:
    """Words without what file systems refuse."""
    return " ".join(NOT_IN_NAMES.sub(" ", words).split()).strip(". ")
