"""Files that are packed around one table: gzip, and an archive with one file in it."""

import io
import zipfile
import zlib
from contextlib import closing
from typing import IO

from hourglass.cohort.reading.recipe import Evidence, Limits, UnreadableFileError
from hourglass.cohort.words import grouped, listed

GZIP, ZIP = b"\x1f\x8b", b"PK\x03\x04"
OF_A_WORKBOOK = ("[Content_Types].xml", "mimetype")
LEFT_BY_SYSTEMS = ("__MACOSX/", ".DS_Store", "Thumbs.db", "desktop.ini")
BLOCK = 2**20
BROKEN = (
    zipfile.BadZipFile,
    zlib.error,
    OSError,
    EOFError,
    RuntimeError,
    NotImplementedError,
    ValueError,
)
DEEPEST = 3


def unwrapped(data: bytes, limits: Limits) -> tuple[bytes, list[Evidence]]:
    """What a packed file holds, and what it was packed in; a workbook is not unpacked.

    Raises:
        UnreadableFileError: when it is broken, encrypted, too large unpacked, or holds several files.
    """
    evidence: list[Evidence] = []
    for _ in range(DEEPEST):
        if data.startswith(GZIP):
            data = _gunzipped(data, limits)
            evidence.append(Evidence("format", "gzip", "it starts with its mark, and was unpacked"))
        elif data.startswith(ZIP) and (inner := _one_in_archive(data, limits)) is not None:
            name, data = inner
            evidence.append(Evidence("format", "an archive", f"the only file in it is {name}"))
        else:
            break
    return data, evidence


def _gunzipped(data: bytes, limits: Limits) -> bytes:
    out, rest = bytearray(), data
    try:
        while rest:
            step = zlib.decompressobj(zlib.MAX_WBITS | 16)
            out += step.decompress(rest, limits.most_unpacked - len(out) + 1)
            if len(out) > limits.most_unpacked:
                raise _too_large(limits)
            if not step.eof:
                raise UnreadableFileError(
                    "The gzip file breaks off before its end. Copy or download it again."
                )
            rest = step.unused_data.lstrip(b"\x00")
    except zlib.error as error:
        raise UnreadableFileError(
            f"The gzip file is damaged ({str(error)[:80]}). Copy or download it again."
        ) from None
    return bytes(out)


def _one_in_archive(data: bytes, limits: Limits) -> tuple[str, bytes] | None:
    """The name and the bytes of the only file in an archive; None for a workbook, which is one itself."""
    try:
        with closing(zipfile.ZipFile(io.BytesIO(data))) as archive:
            names = {info.filename for info in archive.infolist()}
            if any(mark in names for mark in OF_A_WORKBOOK):
                return None
            held = [info for info in archive.infolist() if not _left_by_a_system(info)]
            if not held:
                raise UnreadableFileError("The archive holds no file. Upload the table itself.")
            if len(held) > 1:
                shown = listed([info.filename[:80] for info in held], 4)
                raise UnreadableFileError(
                    f"The archive holds {grouped(len(held))} files: {shown}. Unpack it and upload the one "
                    "that is the table."
                )
            (only,) = held
            if only.flag_bits & 0x1:
                raise UnreadableFileError(
                    f"{only.filename[:80]} is encrypted in the archive. Unpack it with its password and "
                    "upload what is inside."
                )
            with archive.open(only) as file:
                return only.filename[:80], _read(file, limits)
    except UnreadableFileError:
        raise
    except BROKEN as error:
        raise UnreadableFileError(
            f"The workbook or archive cannot be opened ({str(error)[:80]}). Copy or download it again, "
            "or open it where it comes from, save the table again, and upload that."
        ) from None


def _left_by_a_system(info: zipfile.ZipInfo) -> bool:
    """Whether an entry is a folder, or what an operating system leaves in archives."""
    last = info.filename.rsplit("/", 1)[-1]
    return info.is_dir() or info.filename.startswith(LEFT_BY_SYSTEMS) or last in LEFT_BY_SYSTEMS


def _read(file: IO[bytes], limits: Limits) -> bytes:
    out = bytearray()
    while block := file.read(BLOCK):
        out += block
        if len(out) > limits.most_unpacked:
            raise _too_large(limits)
    return bytes(out)


def _too_large(limits: Limits) -> UnreadableFileError:
    return UnreadableFileError(
        f"Unpacked the file is larger than {grouped(limits.most_unpacked // 2**20)} MB, the most that can "
        "be read. Leave out columns or rows that you do not need."
    )
