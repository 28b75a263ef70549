"""Which tones the curves of a model have: a level has that of the whole study."""

from collections.abc import Sequence

from hourglass.analysis.model.profiles import Whom
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared.groups import Groups, group_by
from hourglass.cohort.followup import Cohort


def levels_drawn(cohort: Cohort, statement: ModelStatement) -> Groups | None:
    """The levels of the category that curves are adjusted for, else of the first; None without any."""
    found = [term for term in statement.terms if term.against_reference]
    found.sort(key=lambda term: term.column != statement.adjusted)
    return group_by(cohort.table, found[0].column, found[0].reference_level) if found else None


def distinguished_by_level(subjects: Sequence[Whom], levels: Groups | None) -> bool:
    """Whether every profile has a level of its own."""
    if levels is None:
        return False
    own = [one.values.get(levels.column, "") for one in subjects]
    return len({*own} & {*levels.labels}) == len(own)


def tones_of_profiles(subjects: Sequence[Whom], levels: Groups | None) -> tuple[int, ...]:
    """Those of their levels where these distinguish them, else tones that no level has."""
    if levels is not None and distinguished_by_level(subjects, levels):
        return tuple(levels.tone_of(one.values[levels.column]) for one in subjects)
    first = 0 if levels is None else len(levels.labels)
    return tuple(range(first, first + len(subjects)))
