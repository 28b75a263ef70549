"""Files that hold no table that can be read: what each is, and what to do instead."""

import re
from dataclasses import dataclass

from hourglass.cohort.reading.recipe import UnreadableFileError

EXPORT = "Export the table as CSV or Parquet where the file comes from, and upload that."
MARKUP = re.compile(
    rb"\s*(<!doctype html|<html|<head|<table|<\?xml[^>]*\?>\s*<!doctype html)", re.IGNORECASE
)


@dataclass(frozen=True, slots=True)
class Mark:
    """How a kind of file begins, what it is, and what to do."""

    start: bytes
    what: str
    instead: str = EXPORT


MARKS = (
    Mark(b"%PDF", "a PDF document",
         "Numbers copied out of pages lose their columns: ask for the table as CSV or as a workbook."),
    Mark(b"\xd0\xcf\x11\xe0", "a spreadsheet in an old binary format",
         "Save it as OOXML (.xlsx), OpenDocument (.ods) or CSV and upload that."),
    Mark(b"{\\rtf", "a text document", EXPORT),
    Mark(b"\x89PNG", "a picture", "Upload the table that the picture was made from."),
    Mark(b"\xff\xd8\xff", "a picture", "Upload the table that the picture was made from."),
    Mark(b"GIF8", "a picture", "Upload the table that the picture was made from."),
    Mark(b"7z\xbc\xaf\x27\x1c", "an archive of a kind that cannot be unpacked here",
         "Unpack it and upload what is inside."),
    Mark(b"Rar!", "an archive of a kind that cannot be unpacked here",
         "Unpack it and upload what is inside."),
    Mark(b"BZh", "compressed in a way that cannot be unpacked here", "Unpack it and upload what is inside."),
    Mark(b"\xfd7zXZ", "compressed in a way that cannot be unpacked here",
         "Unpack it and upload what is inside."),
    Mark(b"\x28\xb5\x2f\xfd", "compressed in a way that cannot be unpacked here",
         "Unpack it and upload what is inside."),
    Mark(b"SQLite format 3\x00", "a whole database", "Export the one table that is needed as CSV."),
    Mark(b"ARROW1", "a table in Arrow’s file format", "Save it as Parquet or CSV and upload that."),
    Mark(b"PK\x05\x06", "an empty archive", "Upload the table itself."),
)  # fmt: skip
PACKED_DOCUMENTS = (
    (b"word/document.xml", "a text document"),
    (b"ppt/presentation.xml", "a presentation"),
)


def refuse_what_is_no_table(data: bytes) -> None:
    """Refuse files that are known for something else than a table.

    Raises:
        UnreadableFileError: with what the file is, and what to upload instead.
    """
    for mark in MARKS:
        if data.startswith(mark.start):
            raise UnreadableFileError(f"This is {mark.what}. {mark.instead}")
    if data.startswith(b"PK"):
        for part, what in PACKED_DOCUMENTS:
            if part in data:
                raise UnreadableFileError(f"This is {what}, not a table. {EXPORT}")
    if MARKUP.match(data.removeprefix(b"\xef\xbb\xbf")[:400]):
        raise UnreadableFileError(
            "This is a web page (HTML): often the page that asks for a password, saved in place of the "
            f"file. {EXPORT}"
        )
    if data.lstrip()[:5] == b"<?xml":
        raise UnreadableFileError(
            f"This is XML, which does not say which part is the table. {EXPORT}"
        )
