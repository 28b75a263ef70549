"""Packed sheets looked through piece by piece, before anything is unpacked whole: what do they become?"""

import io
import re
import zipfile
from xml.parsers import expat

import numpy as np
from numpy.typing import NDArray

from hourglass.cohort.reading.recipe import Limits, UnreadableFileError
from hourglass.cohort.words import grouped

MAX_SHRUNK = 400
"""No honest sheet packs more than this many bytes into one."""
MAX_MEMBERS = 10_000
HEAD = 4096
"""Bytes of a part that identify it."""
SHARED_TEXTS = re.compile(rb"<(?:\w+:)?sst\b")
OPEN_DOCUMENT = re.compile(rb"<(?:\w+:)?document-content\b")
PIECE = 1 << 20
MAX_EMPTY, FULL_ENOUGH = 5_000_000, 30
"""A sheet may reach over so many cells, or over so many times those that hold something."""
CELL = re.compile(rb"""\sr\s*=\s*["']([A-Za-z]{1,7})(\d{1,9})["']""")
SHARED = re.compile(
    rb"""<(?:\w+:)?c\b[^<>]*\st\s*=\s*["']s["'][^<>]*>\s*<(?:\w+:)?v[^<>]*>\s*(\d{1,9})\s*<"""
)
"""A cell that holds the number of a text that cells share."""


def refuse_bombs(data: bytes, limits: Limits) -> None:
    """Refuse a spreadsheet that is wider, longer or larger than allowed once it is read.

    Raises:
        UnreadableFileError: when it is.
        BadZipFile, OSError, EOFError, RuntimeError, NotImplementedError, ValueError, ExpatError:
            when it is broken.
    """
    with zipfile.ZipFile(io.BytesIO(data)) as packed:
        members = packed.infolist()
        if len(members) > MAX_MEMBERS:
            raise UnreadableFileError(
                f"The spreadsheet is packed of {grouped(len(members))} parts, far more than an honest one. "
                "It was not opened."
            )
        kinds = {id(member): _kind(packed, member) for member in members}
        # The texts that cells share come first: the sheets point at them.
        members.sort(key=lambda member: kinds[id(member)] != "texts")
        budget = _Budget(limits)
        texts = np.zeros(0, dtype=np.int64)
        for member in members:
            seen: _Member
            match kinds[id(member)]:
                case "texts":
                    seen = _SharedTexts()
                case "open document":
                    seen = _OpenDocument(limits, budget)
                case "marked up":
                    seen = _Sheet(limits, budget, texts)
                case _:
                    seen = _Member()
            with packed.open(member) as stream:
                size = 0
                while piece := stream.read(PIECE):
                    size += len(piece)
                    budget.unpack(len(piece), size, member.compress_size)
                    seen.feed(piece)
            seen.end()
            if isinstance(seen, _SharedTexts):
                texts = seen.lengths()


def _kind(packed: zipfile.ZipFile, member: zipfile.ZipInfo) -> str:
    """What a part is, by what it holds: a workbook lists itself where its parts lie, under any name."""
    with packed.open(member) as stream:
        head = stream.read(HEAD)
    if not head.lstrip(b"\xef\xbb\xbf \t\r\n").startswith(b"<"):
        return "other"
    if SHARED_TEXTS.search(head):
        return "texts"
    return "open document" if OPEN_DOCUMENT.search(head) else "marked up"


def column_place(letters: str) -> int:
    """The place of a column that a sheet names by letters: A is 1, Z 26, AA 27."""
    place = 0
    for letter in letters:
        place = place * 26 + ord(letter) - 64
    return place


class _Budget:
    """How much has been unpacked so far, and how much text the cells come to."""

    def __init__(self, limits: Limits) -> None:
        self._limits, self._unpacked, self._text = limits, 0, 0

    def unpack(self, more: int, of_member: int, packed: int) -> None:
        self._unpacked += more
        if self._unpacked > self._limits.most_unpacked or of_member > PIECE + MAX_SHRUNK * max(
            packed, 1
        ):
            raise UnreadableFileError(
                f"The spreadsheet unpacks to more than {grouped(round(self._unpacked / 2**20))} MB, far more "
                "than an honest one of its size. It was not opened."
            )

    def write(self, size: int) -> None:
        self._text += size
        if self._text > self._limits.most_text:
            raise UnreadableFileError(
                "The cells of the spreadsheet come to more than "
                f"{grouped(round(self._limits.most_text / 2**20))} "
                "MB of text, some of it repeated in many cells. It was not opened. Leave out columns "
                "you do not need and upload again."
            )


class _Member:
    """What is made of a member of the packed file, piece by piece: here, nothing."""

    def feed(self, piece: bytes) -> None:
        """Take the next piece."""

    def end(self) -> None:
        """There are no more pieces."""


class _SharedTexts(_Member):
    """How long each text is that cells share."""

    def __init__(self) -> None:
        self._lengths: list[int] = []
        self._parser = expat.ParserCreate()
        self._parser.StartElementHandler = self._start
        self._parser.CharacterDataHandler = self._text

    def feed(self, piece: bytes) -> None:
        self._parser.Parse(piece, False)

    def lengths(self) -> NDArray[np.int64]:
        return np.array(self._lengths, dtype=np.int64)

    def _start(self, name: str, _: dict[str, str]) -> None:
        if name.rpartition(":")[2] == "si":
            self._lengths.append(0)

    def _text(self, text: str) -> None:
        if self._lengths:
            self._lengths[-1] += len(text)


class _Sheet(_Member):
    """How far the cells of a sheet reach, and how much shared text they hold."""

    def __init__(self, limits: Limits, budget: _Budget, texts: NDArray[np.int64]) -> None:
        self._limits, self._budget, self._texts = limits, budget, texts
        self._rest = b""
        self._width = self._height = self._cells = 0

    def feed(self, piece: bytes) -> None:
        whole = self._rest + piece
        # What follows the last cell that is whole stays for the next piece.
        cut = max(
            whole.rfind(mark + space) for mark in (b"<c", b":c") for space in (b" ", b"\n", b"\t")
        )
        cut = max(cut, 0)
        if cut == 0 and len(whole) > 4 * PIECE:
            cut = len(whole)
        self._rest = whole[cut:]
        self._see(whole[:cut])

    def end(self) -> None:
        self._see(self._rest)

    def _see(self, seen: bytes) -> None:
        if b"<" not in seen:
            return  # a text, or blanks without end
        found = CELL.findall(seen)
        self._cells += len(found)
        if found:
            widest = max(
                column_place(letters.decode().upper()) for letters in {s[0] for s in found}
            )
            self._width = max(self._width, widest)
            self._height = max(self._height, int(found[-1][1]))
            refuse_extent(self._width, self._height, self._cells, self._limits)
        if self._texts.size:
            shared = np.array(SHARED.findall(seen), dtype="S9").astype(np.int64)
            self._budget.write(int(self._texts[shared[shared < self._texts.size]].sum()))


def refuse_extent(width: int, height: int, cells: int, limits: Limits) -> None:
    """Refuse a sheet that reaches far beyond its cells, or beyond the limits."""
    if width > limits.most_columns:
        raise UnreadableFileError(
            f"A sheet reaches to column {grouped(width)}; at most {grouped(limits.most_columns)} "
            "can be read. "
            "Delete what lies far to the right and upload again."
        )
    most = min(limits.most_cells, max(MAX_EMPTY, FULL_ENOUGH * cells))
    if width * height > most:
        raise UnreadableFileError(
            f"A sheet reaches over {grouped(height)} rows of {grouped(width)} columns, with "
            f"{grouped(cells)} cells filled so "
            f"far; at most {grouped(most)} can be read of such a sheet. Delete what lies far away "
            "and upload again."
        )


class _OpenDocument(_Member):
    """How far the filled cells of an OpenDocument sheet reach, and their text, repetitions counted."""

    def __init__(self, limits: Limits, budget: _Budget) -> None:
        self._limits, self._budget = limits, budget
        self._across = self._filled = self._down = self._rows = self._width = self._cells = 0
        self._repeated = self._in_cell = self._in_row = 0
        self._parser = expat.ParserCreate()
        self._parser.StartElementHandler = self._start
        self._parser.EndElementHandler = self._end
        self._parser.CharacterDataHandler = self._text

    def feed(self, piece: bytes) -> None:
        self._parser.Parse(piece, False)

    def _start(self, name: str, attributes: dict[str, str]) -> None:
        match name.rpartition(":")[2]:
            case "table":
                self._rows = self._width = 0
            case "table-row":
                self._down = int(attributes.get("table:number-rows-repeated", 1))
                self._across = self._filled = self._in_row = 0
            case "table-cell" | "covered-table-cell":
                self._repeated = int(attributes.get("table:number-columns-repeated", 1))
                self._in_cell = len(attributes.get("office:string-value", ""))
                self._across += self._repeated
                if any(key.endswith("value-type") or key.endswith("formula") for key in attributes):
                    self._filled = self._across
                self._cells += 1

    def _text(self, text: str) -> None:
        self._in_cell += len(text)

    def _end(self, name: str) -> None:
        match name.rpartition(":")[2]:
            case "table-cell" | "covered-table-cell":
                self._in_row += self._in_cell * self._repeated
                self._in_cell = 0
            case "table-row":
                self._rows += self._down
                self._width = max(self._width, self._filled)
                if self._filled:
                    refuse_extent(self._width, self._rows, self._cells, self._limits)
                self._budget.write(self._in_row * self._down)
