"""From bytes to UTF-8, found by marks and by what decodes."""

from hourglass.cohort.reading.recipe import Encoding, Evidence, UnreadableFileError
from hourglass.cohort.words import grouped


def find_encoding(data: bytes) -> tuple[Encoding, Evidence]:
    """The encoding of a text, and why.

    Raises:
        UnreadableFileError: when it is no text.
    """
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        return "UTF-16", Evidence("encoding", "UTF-16", "the file starts with UTF-16's mark")
    if _unmarked_utf16(data) is not None:
        return "UTF-16", Evidence("encoding", "UTF-16", "every other byte at its start is zero")
    if b"\x00" in data:
        _refuse_control_characters(data)
    if data.startswith(b"\xef\xbb\xbf"):
        return "UTF-8", Evidence("encoding", "UTF-8", "the file starts with UTF-8's mark")
    if data.isascii():
        return "UTF-8", Evidence("encoding", "UTF-8", "every byte is plain ASCII")
    try:
        data.decode("utf-8")
    except UnicodeDecodeError as error:
        because = f"byte {grouped(error.start + 1)} is not UTF-8; it reads as " + repr(
            data[max(error.start - 8, 0) : error.start + 9].decode("cp1252", errors="replace")
        )
        return "Windows-1252", Evidence("encoding", "Windows-1252 (Latin-1)", because)
    return "UTF-8", Evidence("encoding", "UTF-8", "every byte decodes as UTF-8")


def to_utf8(data: bytes, encoding: Encoding) -> bytes:
    """The text in UTF-8, without a mark.

    Raises:
        UnreadableFileError: when it is not text of that encoding.
    """
    if encoding == "UTF-8" and not data.startswith((b"\xff\xfe", b"\xfe\xff")):
        data = data.removeprefix(b"\xef\xbb\xbf")
        if data.isascii():
            return data
        try:
            data.decode("utf-8")
        except UnicodeDecodeError as error:
            raise UnreadableFileError(
                f"Byte {grouped(error.start + 1)} is not UTF-8. Choose another encoding."
            ) from None
        return data
    if encoding == "Windows-1252":
        _refuse_control_characters(data)
        return data.decode("cp1252", errors="replace").encode()
    try:
        return data.decode(_unmarked_utf16(data) or "utf-16").encode()
    except UnicodeDecodeError as error:
        raise UnreadableFileError(
            f"The file starts like UTF-16 text but breaks off at byte {grouped(error.start)}."
        ) from None


def _unmarked_utf16(data: bytes) -> str | None:
    """Which UTF-16 a text without a mark is in, found by where its zero bytes are."""
    head = data[: min(len(data), 4_000) // 2 * 2]
    if len(head) < 4 or data.startswith((b"\xff\xfe", b"\xfe\xff")):
        return None
    even, odd = head[::2].count(0) / len(head), head[1::2].count(0) / len(head)
    if odd > 0.3 and even < 0.01:
        return "utf-16-le"
    return "utf-16-be" if even > 0.3 and odd < 0.01 else None


def _refuse_control_characters(data: bytes) -> None:
    strange = len(data) - len(data.translate(None, bytes(set(range(32)) - {9, 10, 12, 13})))
    if strange > len(data) / 50:
        raise UnreadableFileError(
            "This is another program’s binary data file: its bytes are no text, and only that program "
            "knows where the columns are. Export the table there as CSV or Parquet, and upload that."
        )
