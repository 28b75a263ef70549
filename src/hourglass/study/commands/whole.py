"""Commands on a study as a whole: begun, renamed, deleted, brought back."""

from dataclasses import replace
from uuid import UUID

from hourglass.study.actions.turns import StudyRenamed
from hourglass.study.history import NewDecision
from hourglass.study.repository import StudyRepository
from hourglass.study.study import StaleError, Study


def create(repository: StudyRepository, name: str) -> UUID:
    """Begin a study without a file."""
    return repository.create(name.strip())


def rename(repository: StudyRepository, study: Study, name: str) -> Study:
    """Give a study another name."""
    action = StudyRenamed(before=study.name, after=name)
    if name == study.name:
        return study.left_as_it_is(action)
    return repository.append(study, NewDecision(action=action), replace(study.snapshot, name=name))


def delete(repository: StudyRepository, study: Study) -> None:
    """Take a study away with everything that belongs to it; it can be brought back for some days.

    Raises:
        StaleError: when the study has been changed since it was loaded.
    """
    if study.meanwhile:
        raise StaleError(study, study.meanwhile[0].id - 1)
    repository.delete(study)


def restore(repository: StudyRepository, study: UUID, revision: int | None) -> None:
    """Bring a study back that was deleted in a revision, or in any.

    Raises:
        NoSuchStudyError: when it is gone for good, or was deleted in another revision.
    """
    repository.restore(study, revision)
