"""Bytes that have no place in a table as text: zero bytes, and carriage returns on their own."""

import re

from hourglass.cohort.reading.mended import Mended
from hourglass.cohort.words import grouped

LONE_RETURN = re.compile(rb"\r(?!\n)")
SAMPLE = 200


def mended_text(text: bytes, delimiter: bytes) -> tuple[bytes, list[Mended]]:
    """A text without zero bytes, its lines ended in one way.

    A carriage return on its own ends a line where that leaves rows of the usual width; within a
    cell it becomes a space.
    """
    mended = []
    zeros = text.count(b"\x00")
    if zeros:
        lines = _lines(text, b"\x00")
        text = text.replace(b"\x00", b"")
        mended.append(
            Mended(
                "zero bytes",
                f"{_count(zeros, 'zero byte')} left out, in {_places(lines)}",
                "They hold nothing; programs of another age fill cells with them.",
            )
        )
    if LONE_RETURN.search(text):
        text, words = _with_one_end(text, delimiter)
        mended.append(words)
    return text, mended


def _with_one_end(text: bytes, delimiter: bytes) -> tuple[bytes, Mended]:
    n = len(LONE_RETURN.findall(text))
    if b"\n" not in text or _end_lines(text, delimiter):
        return LONE_RETURN.sub(b"\n", text), Mended(
            "line ends",
            f"{_count(n, 'line')} ended in a carriage return alone, as old programs write them",
            "They are read as ends of lines like the others.",
        )
    where = _places(_lines(text.replace(b"\r\n", b"\n\n"), b"\r"))
    return LONE_RETURN.sub(b" ", text), Mended(
        "line ends",
        f"{_count(n, 'carriage return')} within cells became a space, in {where}",
        "Read as the end of a line each would have torn its row in two.",
    )


def _end_lines(text: bytes, delimiter: bytes) -> bool:
    """Whether the pieces between lone carriage returns are as wide as other lines."""
    lines = text.replace(b"\r\n", b"\n").split(b"\n")
    whole = [line.count(delimiter) for line in lines if b"\r" not in line and line][:SAMPLE]
    pieces = [
        piece.count(delimiter)
        for line in lines
        if b"\r" in line
        for piece in line.split(b"\r")
        if piece
    ][:SAMPLE]
    if not whole:
        return True
    usual = max(set(whole), key=whole.count)
    return usual > 0 and sum(n == usual for n in pieces) > len(pieces) / 2


def _lines(text: bytes, mark: bytes) -> list[int]:
    """The lines, counted from 1, in which a mark stands: the first few."""
    found: list[int] = []
    at = line = 0
    while len(found) < 6:
        where = text.find(mark, at)
        if where < 0:
            break
        line += text.count(b"\n", at, where)
        if not found or found[-1] != line + 1:
            found.append(line + 1)
        at = where + 1
    return found


def _places(lines: list[int]) -> str:
    shown = ", ".join(str(line) for line in lines[:5])
    more = " and others" if len(lines) > 5 else ""
    return f"line {shown}{more}" if len(lines) == 1 else f"lines {shown}{more}"


def _count(n: int, noun: str) -> str:
    return f"1 {noun}" if n == 1 else f"{grouped(n)} {noun}s"
