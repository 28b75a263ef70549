"""Putting what somebody decided from an older revision on the study as it is now."""

from collections.abc import Callable
from typing import TypeAlias
from uuid import UUID

from hourglass.core.errors import HourglassError
from hourglass.study.repository import StudyRepository
from hourglass.study.study import NoSuchStudyError, StaleError, Study

Command: TypeAlias = Callable[[Study], Study]
"""Something done to a study as it is; gives the study after it."""
TRIES = 8
"""How often a command is begun again because somebody else was a moment quicker."""


def carried_out(
    repository: StudyRepository,
    study_id: UUID,
    seen: int | None,
    command: Command,
    loaded: Study | None = None,
) -> Study:
    """Carry a command out on a study as it is now.

    What was decided since ``seen`` stands beside it where it concerns other parts of the study. Where it
    concerns the same, or the command no longer fits, nothing is done.

    Args:
        seen: the revision that the command was decided from; None for one that only adds.
        loaded: the study as it was a moment ago, on which the command is tried first.

    Raises:
        StaleError: with what was decided meanwhile.
    """
    tried = None
    for _ in range(TRIES):
        study, loaded = loaded or repository.load(study_id), None
        if seen is not None:
            study = study.seen_at(seen)
        if tried is not None and study.revision == tried[0]:
            raise tried[1]
        try:
            return command(study)
        except StaleError as stale:
            tried = study.revision, stale
        except NoSuchStudyError:
            raise
        except HourglassError as refused:
            if not study.meanwhile:
                raise
            raise StaleError(study, study.meanwhile[0].id - 1) from refused
    assert tried is not None
    raise tried[1]
