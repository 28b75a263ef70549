"""The readings of several views of a stage in one table each: a row a reading, a column a view."""

from collections.abc import Iterator, Sequence

from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell, words
from hourglass.analysis.shared.sections import Section, Table

Place = tuple[str, str, str]
"""Where a reading stands in a view: in which table, in which row, under which heading.

The heading is part of it: an interval of another level is another reading, with a row of its own.
"""


def readouts_beside(names: Sequence[str], views: Sequence[Sequence[Section]]) -> list[Section]:
    """The tables at the side of each view, brought together by section.

    Args:
        names: what stands above the column of each view.
        views: the sections of each, in the same order.

    Returns:
        a section for each that has a table in some view; a reading that a view lacks is a dash.
    """
    titles = {one.id: one.title for view in reversed(views) for one in view if _has_tables(one)}
    order = dict.fromkeys(one.id for view in views for one in view if one.id in titles)
    found = []
    for id in order:
        columns = [dict(_readings(view, id)) for view in views]
        places = dict.fromkeys(place for column in columns for place in column)
        rows = [
            [
                words(_label(place)),
                *(column.get(place) or words(formatting.BLANK) for column in columns),
            ]
            for place in places
        ]
        table = Table(label=titles[id], head=["", *names], keys=["reading", *names], rows=rows)
        found.append(Section(id=id, title=titles[id], blocks=[table]))
    return found


def _has_tables(section: Section) -> bool:
    return section.place == "side" and any(isinstance(block, Table) for block in section.blocks)


def _readings(view: Sequence[Section], id: str) -> Iterator[tuple[Place, Cell]]:
    tables = (b for s in view if s.id == id for b in s.blocks if isinstance(b, Table))
    for table in tables:
        for first, *rest in table.rows:
            for k, cell in enumerate(rest):
                head = table.head[k + 1] if len(rest) > 1 and k + 1 < len(table.head) else ""
                yield (table.label, first.text, head), cell


def _label(place: Place) -> str:
    _, row, head = place
    return ", ".join(one for one in (row, head) if one)
