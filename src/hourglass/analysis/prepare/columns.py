"""The columns of a table at a glance, each with the part it plays."""

from hourglass.analysis.prepare.result import ColumnView, LevelCount
from hourglass.cohort.profile import profile
from hourglass.cohort.statement import BetweenDates, FirstOf, FollowUpStatement
from hourglass.cohort.table import Table


def column_views(table: Table, statement: FollowUpStatement) -> list[ColumnView]:
    roles = {name: role for role, name in _roles(statement) if name is not None}
    return [
        ColumnView(
            name=p.name,
            label=column.label,
            unit=column.unit,
            kind=p.kind,
            role=roles.get(p.name, ""),
            distinct=p.distinct,
            missing=p.missing,
            low=p.low,
            high=p.high,
            bins=list(p.bins),
            levels=[LevelCount(level=level, rows=n) for level, n in p.levels],
        )
        for p, column in zip(profile(table), table.columns, strict=True)
    ]


def _roles(statement: FollowUpStatement) -> list[tuple[str, str | None]]:
    times: list[tuple[str, str | None]]
    match statement.clock:
        case BetweenDates(start=start, end=end):
            times = [("start", start), ("end", end)]
        case FirstOf(start=start, events=events, last_contact=last):
            times = [("start", start), ("last contact", last)]
            times += [("event", event.column) for event in events]
        case duration:
            times = [("duration", duration.column)]
    ended = {"codes": statement.outcome, "date": statement.event_date}
    return [
        *times,
        ("outcome", ended.get(statement.ended) if statement.clock.kind != "first of" else None),
        ("subject", statement.subject),
        ("delayed entry", statement.late_entry),
        ("count", statement.count),
    ]
