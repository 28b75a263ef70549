"""The findings about a study's data, looked for once by a process for each state of them."""

from collections.abc import Callable, Sequence
from datetime import date
from typing import TypeAlias

from hourglass.cohort.findings.find import find
from hourglass.cohort.findings.finding import Finding
from hourglass.cohort.steps.apply import made_by_steps
from hourglass.study.hashes import hash_of
from hourglass.study.recent import Recent
from hourglass.study.source import Source

_findings: Recent[tuple[Finding, ...]] = Recent("findings")
Look: TypeAlias = Callable[[], Sequence[Finding]]


def found_once(source: Source, today: date, look: Look) -> tuple[Finding, ...]:
    """What is odd about the data, which ``look`` finds where nobody has looked yet."""
    return _findings.get(hash_of(source.hash, today.isoformat()), lambda: tuple(look()))


def findings_of(source: Source, today: date) -> tuple[Finding, ...]:
    """What is odd about the data of a study, seen on a day."""

    def look() -> Sequence[Finding]:
        table, effects = source.applied()
        raw = source.table()
        return find(table, source.follow_up, today, made_by_steps(raw, table, effects), raw)

    return found_once(source, today, look)
