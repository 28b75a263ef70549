"""Taking the last change of a study back, and doing it again: each is one entry of its log too."""

from hourglass.study.actions.turns import Redone, Undone
from hourglass.study.history import NewDecision
from hourglass.study.repository import StudyRepository
from hourglass.study.study import NothingToUndoError, Study


def undo(repository: StudyRepository, study: Study) -> Study:
    """Take back the last change that stands.

    Raises:
        NothingToUndoError: when there is none.
    """
    last, under = study.history.undo, study.history.under
    if last is None or under is None:
        raise NothingToUndoError("There is nothing to undo.")
    assert not isinstance(last.action, Undone | Redone)
    action = Undone(of=last.action, decision=last.id)
    entry = NewDecision(action=action, undoes=last.id)
    return repository.append(study, entry, repository.snapshot_at(study.id, under.id))


def redo(repository: StudyRepository, study: Study) -> Study:
    """Do again what was undone last.

    Raises:
        NothingToUndoError: when there is nothing, or something else was decided since.
    """
    next_one = study.history.redo
    if next_one is None:
        raise NothingToUndoError("There is nothing to redo.")
    assert not isinstance(next_one.action, Undone | Redone)
    action = Redone(of=next_one.action, decision=next_one.id)
    entry = NewDecision(action=action, redoes=next_one.id)
    return repository.append(study, entry, repository.snapshot_at(study.id, next_one.id))
