"""The study that a request is about: looked up in one place, where it is decided who may do what."""

from enum import StrEnum
from typing import Annotated, NamedTuple
from uuid import UUID

from fastapi import Depends, Request

from hourglass.analysis.shared.input import COHORT, Missing
from hourglass.api.problems import ProblemError
from hourglass.api.state import State, having_file
from hourglass.cohort.followup import Cohort
from hourglass.study.source import Source
from hourglass.study.study import Study


class Role(StrEnum):
    """What somebody does with a study; there are no accounts yet, and everybody does all of it."""

    LOOK = "look"
    CHANGE = "change"


def study_for(state: State, study_id: UUID, role: Role) -> Study:
    """The study, for somebody in a role.

    Raises:
        NoSuchStudyError: when there is none, or it is not for them.
    """
    return state.repository.load(study_id)


def _found(request: Request, study_id: UUID) -> Study:
    return study_for(request.app.state.hourglass, study_id, Role.LOOK)


FoundStudy = Annotated[Study, Depends(_found)]
"""The study of the address."""


def _with_file(study: FoundStudy) -> Study:
    return having_file(study)


StudyWithFile = Annotated[Study, Depends(_with_file)]
"""The study of the address, which must have its file."""


class Ready(NamedTuple):
    """A study whose cohort is formed."""

    study: Study
    source: Source
    cohort: Cohort


def ready(state: State, study: Study) -> Ready:
    """The study with its cohort.

    Raises:
        ProblemError: when Prepare has not formed it, with what must be decided first.
    """
    source = state.results.source(study)
    cohort = COHORT.load(source)
    if isinstance(cohort, Missing):
        raise waits_for_prepare(cohort)
    return Ready(study, source, cohort)


def require_input(state: State, study: Study, stage: str) -> None:
    """Refuse a request for a stage that waits for its input.

    Raises:
        ProblemError: with what must be decided first.
    """
    missing = state.results.missing(study, stage)
    if missing is not None:
        raise waits_for_prepare(missing)


def waits_for_prepare(missing: Missing) -> ProblemError:
    """What is missing, as a problem."""
    sentence = missing.blocks[0].sentence
    title = f"{missing.waits_for} is not done"
    return ProblemError(409, "waits-for-prepare", title, sentence)


def _ready(request: Request, study: FoundStudy) -> Ready:
    return ready(request.app.state.hourglass, study)


ReadyStudy = Annotated[Ready, Depends(_ready)]
"""The study of the address, whose cohort Prepare must have formed."""
