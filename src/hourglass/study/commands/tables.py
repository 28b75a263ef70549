"""Commands on the further tables of a study: added, stated, given steps, removed."""

from collections.abc import Sequence
from dataclasses import replace

from hourglass.cohort.records.statement import MAX_TABLES, RecordTable
from hourglass.cohort.steps.apply import Step
from hourglass.core.errors import UserError
from hourglass.study.actions.tables import TableAdded, TableRemoved, TableStated, TableStepsSet
from hourglass.study.history import NewDecision
from hourglass.study.repository import NewFile, StudyRepository
from hourglass.study.study import Study, TableInUse


def add_table(
    repository: StudyRepository, study: Study, file: NewFile, stated: RecordTable
) -> Study:
    """Add a further table, or take another data extract of one into use; its steps stay.

    Raises:
        UserError: when the study has as many further tables as it may.
    """
    known = next((one for one in study.tables if one.stated.name == stated.name), None)
    if known is None and len(study.tables) >= MAX_TABLES:
        raise UserError(
            f"A study may have {MAX_TABLES} further tables: remove one first.",
            "too-many-tables",
            "name",
        )
    used = None if known is None else study.extract_of(known)
    before = "" if used is None else used.name
    action = TableAdded(
        table=stated.name, file=file.name, sha256=file.sha256, stated=stated, before=before
    )
    with repository.transaction() as inside:
        extract = inside.add_extract(study.id, replace(file, table=stated.name), waiting=False)
        now = TableInUse(extract=extract, stated=stated)
        table = now if known is None else replace(known, extract=extract, stated=stated)
        return inside.append(study, NewDecision(action=action), study.snapshot.with_table(table))


def state_table(repository: StudyRepository, study: Study, stated: RecordTable) -> Study:
    """State how a further table is read and what is made of it.

    Raises:
        UserError: when the study has no table of that name.
    """
    known = table_of(study, stated.name)
    action = TableStated(table=stated.name, before=known.stated, after=stated)
    if known.stated == stated:
        return study.left_as_it_is(action)
    snapshot = study.snapshot.with_table(replace(known, stated=stated))
    return repository.append(study, NewDecision(action=action), snapshot)


def set_table_steps(
    repository: StudyRepository, study: Study, name: str, steps: Sequence[Step], reason: str = ""
) -> Study:
    """Set the steps of a further table.

    Raises:
        UserError: when the study has no table of that name.
    """
    known = table_of(study, name)
    action = TableStepsSet(
        table=name,
        steps=tuple(step.model_dump(mode="json") for step in steps),
        names=tuple(step.named() for step in steps),
    )
    if known.steps == tuple(steps):
        return study.left_as_it_is(action)
    snapshot = study.snapshot.with_table(replace(known, steps=tuple(steps)))
    return repository.append(study, NewDecision(action=action, reason=reason), snapshot)


def remove_table(repository: StudyRepository, study: Study, name: str) -> Study:
    """Remove a further table, with the columns that are made of it.

    Raises:
        UserError: when the study has no table of that name.
    """
    table_of(study, name)
    tables = tuple(one for one in study.tables if one.stated.name != name)
    snapshot = replace(study.snapshot, tables=tables)
    return repository.append(study, NewDecision(action=TableRemoved(table=name)), snapshot)


def table_of(study: Study, name: str) -> TableInUse:
    """The further table of a name.

    Raises:
        UserError: when the study has none of that name.
    """
    known = next((one for one in study.tables if one.stated.name == name), None)
    if known is None:
        raise UserError(f"The study has no table called {name}: reload.", "no-such-table", "name")
    return known


def with_reference(study: Study, column: str, level: str) -> RecordTable | None:
    """The statement of the table that makes a column, with its reference level; None where none does."""
    for stated in (one.stated for one in study.tables):
        if any(covariate.into == column for covariate in stated.covariates):
            covariates = tuple(
                one.model_copy(update={"reference": level}) if one.into == column else one
                for one in stated.covariates
            )
            return stated.model_copy(update={"covariates": covariates})
    return None
