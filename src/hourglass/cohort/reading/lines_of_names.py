"""Lines beside the names: headings above names that repeat, units and labels below them."""

import re
from collections.abc import Sequence
from typing import Literal

from hourglass.cohort.reading.layout_of_lines import VALUE, Grid
from hourglass.cohort.reading.recipe import Evidence
from hourglass.cohort.table import is_missing_word
from hourglass.cohort.units import UNIT_OF, unit_of

Described = Literal["units", "labels"]
MAX_LINES, MIN_LINES_BELOW = 3, 3
LOOK = 60
MIN_SHARE_OF_NAMES = 0.9
IN_BRACKETS = re.compile(r"^[(\[](.+)[)\]]$")
OTHER_UNITS = re.compile(
    r"^([%°‰]|°?[CF]|[mµkcdn]?[A-Za-z]{1,4}/[A-Za-z]{1,4}²?|mm ?Hg|bpm|V|A|W|Pa|bar|0/1|[mµk]?mol)$"
)


def find_described(rows: Grid, header: int) -> tuple[tuple[Described, ...], list[Evidence]]:
    """What the lines right under the names hold, up to the first that is a row of the table."""
    found: list[Described] = []
    evidence = []
    while header and len(found) < MAX_LINES and header + len(found) < len(rows):
        line = rows[header + len(found)]
        below = rows[header + len(found) + 1 :][:LOOK]
        kind = _kind_of(line, below)
        if kind is None:
            break
        found.append(kind)
        shown = ", ".join(cell.strip() for cell in line if cell.strip())
        evidence.append(
            Evidence(
                "described",
                f"line {header + len(found)} holds {kind}",
                f"it stands under the names and holds no values like those below it: {shown[:120]}",
            )
        )
    return tuple(found), evidence


def find_headings(rows: Grid, header: int) -> tuple[int, list[Evidence]]:
    """How many lines above names that repeat belong to them: 1, or 0."""
    if header < 2:
        return 0, []
    names = [cell.strip() for cell in rows[header - 1]]
    above = [cell.strip() for cell in rows[header - 2]]
    given = [name for name in names if name]
    if len(set(given)) == len(given) or len([cell for cell in above if cell]) < 2:
        return 0, []
    joined = with_headings(names, above)
    if len({name for name in joined if name}) < len(given):
        return 0, []
    shown = ", ".join(cell for cell in above if cell)
    because = (
        f"names repeat under it, and no longer do with its headings before them: {shown[:120]}"
    )
    return 1, [Evidence("headings", f"line {header - 1}", because)]


def with_headings(names: Sequence[str], above: Sequence[str]) -> list[str]:
    """Names with the headings that stand over them, each of which goes on until the next."""
    made, heading = [], ""
    for k, name in enumerate(names):
        heading = (above[k].strip() if k < len(above) else "") or heading
        made.append(f"{heading} {name}" if heading and name else name or heading)
    return made


def units_of(line: Sequence[str]) -> list[str]:
    """The unit in each cell of a line of units, without its brackets."""
    plain = [cell.strip() for cell in line]
    bare = [found[1] if (found := IN_BRACKETS.match(cell)) else cell for cell in plain]
    return [unit_of(cell) for cell in bare]


def _kind_of(line: Sequence[str], below: Grid) -> Described | None:
    """What a line holds that describes the columns below it; None where it is a row like them."""
    columns = [
        [row[k].strip() for row in below if k < len(row) and row[k].strip()]
        for k in range(len(line))
    ]
    cells = [cell.strip() for cell in line]
    measured = [
        k
        for k, held in enumerate(columns)
        if held and _values(held) >= MIN_SHARE_OF_NAMES * len(held)
    ]
    described = [
        k
        for k in measured
        if _wordy(cells[k]) and not VALUE.match(cells[k]) and not is_missing_word(cells[k])
    ]
    if len(below) < MIN_LINES_BELOW or not described or any(VALUE.match(cell) for cell in cells):
        return None
    if any(_belongs(cell, held) for cell, held in zip(cells, columns, strict=True) if cell):
        return None
    units = [k for k, cell in enumerate(cells) if cell and _is_unit(cell)]
    given = [cell for cell in cells if cell]
    if units and 2 * len(units) >= len(given):
        return "units"
    wordy = [k for k in described if " " in cells[k] or cells[k].startswith("(")]
    whole = 2 * len(given) > len(cells)
    return "labels" if whole and (wordy or len(described) > 1) else None


def _wordy(cell: str) -> bool:
    return any(ch.isalpha() for ch in cell) or _is_unit(cell)


def _values(held: Sequence[str]) -> int:
    return sum(bool(VALUE.match(cell)) for cell in held)


def _is_unit(cell: str) -> bool:
    bare = found[1] if (found := IN_BRACKETS.match(cell)) else cell
    return bare.casefold().rstrip(".") in UNIT_OF or bool(OTHER_UNITS.match(bare))


def _belongs(cell: str, held: Sequence[str]) -> bool:
    """Whether a cell is, or is written, like one of those below it."""
    folded = cell.casefold()
    if any(folded == other.casefold() for other in held):
        return True
    return any(ch.isdigit() for ch in cell) and any(_shape(cell) == _shape(other) for other in held)


def _shape(cell: str) -> str:
    """A cell with its digits and letters made alike."""
    return re.sub(r"[^\W\d_]+", "a", re.sub(r"\d+", "9", cell))
