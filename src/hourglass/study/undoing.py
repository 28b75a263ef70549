"""Taking the last change of a study back, and doing it again: each is one entry of its log too."""

from hourglass.analysis.shared.changed_words import shortened
from hourglass.study.history import REDONE, UNDONE, NewDecision
from hourglass.study.keeping import Keeping
from hourglass.study.study import NothingToUndoError, Study


def undo(keeping: Keeping, study: Study) -> Study:
    """Take back the last change that stands.

    Raises:
        NothingToUndoError: when there is none.
    """
    last, under = study.history.undo, study.history.under
    if last is None or under is None:
        raise NothingToUndoError("There is nothing to undo.")
    entry = NewDecision(
        stage=last.stage,
        about=last.about,
        choice=UNDONE,
        sentence=shortened(f"Undone: {last.sentence}"),
        undoes=last.id,
    )
    return keeping.append(study, entry, keeping.decided_at(study.id, under.id))


def redo(keeping: Keeping, study: Study) -> Study:
    """Do again what was undone last.

    Raises:
        NothingToUndoError: when there is nothing, or something else was decided since.
    """
    next_one = study.history.redo
    if next_one is None:
        raise NothingToUndoError("There is nothing to redo.")
    entry = NewDecision(
        stage=next_one.stage,
        about=next_one.about,
        choice=REDONE,
        sentence=shortened(f"Redone: {next_one.sentence}"),
        redoes=next_one.id,
    )
    return keeping.append(study, entry, keeping.decided_at(study.id, next_one.id))
