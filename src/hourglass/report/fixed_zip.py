"""Archives that are the same bytes whenever they are made."""

import io
import zipfile
from collections.abc import Mapping

WHEN = (1980, 1, 1, 0, 0, 0)
"""The earliest time that an archive can hold."""


def fixed_zip(files: Mapping[str, bytes]) -> bytes:
    """An archive of files by name, in their order."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files.items():
            archive.writestr(_entry(name), data)
    return out.getvalue()


def with_fixed_times(data: bytes) -> bytes:
    """An archive as it is, its files dated alike."""
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        return fixed_zip({name: archive.read(name) for name in archive.namelist()})


def _entry(name: str) -> zipfile.ZipInfo:
    entry = zipfile.ZipInfo(name, WHEN)
    entry.compress_type = zipfile.ZIP_DEFLATED
    return entry
