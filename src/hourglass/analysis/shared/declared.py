"""What numbers follow from: fields of statements, declared by name, and nothing else of them."""

from collections.abc import Mapping
from typing import Any, TypeAlias, TypeVar

from hourglass.analysis.shared.statement import StageStatement

S = TypeVar("S", bound=StageStatement)
Statements: TypeAlias = Mapping[str, StageStatement]
"""Statements by the name of their stage."""
Declared: TypeAlias = Mapping[str, tuple[str, ...]]
"""By the name of a stage, the fields of its statement."""
OF_EVERY_STATEMENT = frozenset({"stage", "version"})
"""Fields that identify a statement, and are no choice in it."""


def statement_of(statements: Statements, kind: type[S]) -> S:
    """The statement of a stage among others, by its type."""
    found = statements[kind.model_fields["stage"].default]
    assert isinstance(found, kind)
    return found


def narrowed(statement: S, fields: tuple[str, ...]) -> S:
    """The statement with every field but these as where nobody has stated it."""
    others = {
        name: field.get_default(call_default_factory=True)
        for name, field in type(statement).model_fields.items()
        if name not in fields and name not in OF_EVERY_STATEMENT
    }
    return statement.model_copy(update=others)


def declared(statements: Statements, of: Declared) -> dict[str, StageStatement]:
    """The statements that are declared, each narrowed to its declared fields."""
    return {name: narrowed(statements[name], fields) for name, fields in of.items()}


def stated(statements: Statements, of: Declared) -> dict[str, Any]:
    """What is declared of statements, as JSON can hold it."""
    return {
        name: statements[name].model_dump(mode="json", include=set(fields))
        for name, fields in of.items()
    }
