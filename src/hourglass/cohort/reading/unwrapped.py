"""Files that are packed around one table: gzip, and an archive with one file in it."""

import gzip
import io
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import closing

from hourglass.cohort.reading.recipe import Evidence, Limits, UnreadableFileError
from hourglass.cohort.words import grouped, listed

GZIP, ZIP = b"\x1f\x8b", b"PK\x03\x04"
OF_A_WORKBOOK = ("[Content_Types].xml", "mimetype")
LEFT_BY_SYSTEMS = ("__MACOSX/", ".DS_Store", "Thumbs.db", "desktop.ini")
BLOCK = 2**20
COUNTED_ABOVE = 256 * BLOCK
"""Bytes above which what is packed is counted before it is kept."""
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
            return data, evidence
    if data.startswith(GZIP):
        raise UnreadableFileError(
            f"The file is packed more than {DEEPEST} times over. Unpack it and upload what is inside."
        )
    return data, evidence


def _gunzipped(data: bytes, limits: Limits) -> bytes:
    """What a gzip file holds; where that is much, its size is counted before it is kept."""
    out, counted = bytearray(), False
    for block in _blocks(data):
        out += block
        if len(out) > COUNTED_ABOVE and not counted:
            _refuse_large(sum(map(len, _blocks_within(data, limits))), limits)
            counted = True
    _refuse_large(len(out), limits)
    return bytes(out)


def _blocks_within(data: bytes, limits: Limits) -> Iterator[bytes]:
    """What a gzip file holds, up to just beyond what can be read."""
    size = 0
    for block in _blocks(data):
        yield block
        size += len(block)
        if size > limits.most_unpacked:
            return


def _blocks(data: bytes) -> Iterator[bytes]:
    """What a gzip file holds, piece by piece."""
    try:
        with gzip.open(io.BytesIO(data)) as file:
            while block := file.read(BLOCK):
                yield block
    except EOFError:
        raise UnreadableFileError(
            "The gzip file breaks off before its end. Copy or download it again."
        ) from None
    except (zlib.error, OSError) as error:
        raise UnreadableFileError(
            f"The gzip file is damaged ({str(error)[:80]}). Copy or download it again."
        ) from None


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
            _refuse_large(only.file_size, limits)  # it gives no more than it declares
            return only.filename[:80], archive.read(only)
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


def _refuse_large(size: int, limits: Limits) -> None:
    if size > limits.most_unpacked:
        raise UnreadableFileError(
            f"Unpacked the file is larger than {grouped(limits.most_unpacked // 2**20)} MB, the most that "
            "can be read. Leave out columns or rows that you do not need."
        )
