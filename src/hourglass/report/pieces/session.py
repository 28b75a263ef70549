"""By what program and settings the numbers were made."""

import platform
from importlib.metadata import version
from typing import Any

from hourglass import VERSION
from hourglass.analysis.registry import STAGES
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.field_words import FieldWords, Words
from hourglass.analysis.shared.statement import StageStatement
from hourglass.report.inputs import ReportInputs
from hourglass.report.pieces.piece import Piece, Printed
from hourglass.report.tables import Column, table_of

COMPUTES = ("numpy", "scipy")
NOT_SETTINGS = ("stage", "version", "kept")
"""Fields of statements that are shown elsewhere in the report."""


def _session(found: ReportInputs) -> Printed:
    lines = [
        ("Olden Hourglass", VERSION),
        ("Python", platform.python_version()),
        *((name, version(name)) for name in COMPUTES),
    ]
    lines += [
        (f"{formatting.capital(name)}: {title}", words)
        for name, statement in found.statements.items()
        if found.has(name)
        for title, words in _settings(statement)
    ]
    columns: tuple[Column[tuple[str, str]], ...] = (
        Column(key="what", head="", value=lambda line: line[0]),
        Column(key="is", head="", value=lambda line: line[1]),
    )
    return Printed(
        tables=(table_of("session", "Program and settings", lines, columns),),
        note="Settings that are left as the program has them are not listed. What is drawn at random "
        "follows from the seed: the same seed draws the same.",
    )


def _settings(statement: StageStatement) -> list[tuple[str, str]]:
    """What was stated otherwise than it is at first, and the seed."""
    fields = type(statement).model_fields
    known: Words = next((one.field_words for one in STAGES if one.name == statement.stage), {})
    return [
        _worded(known.get(name, FieldWords(name.replace("_", " "))), value)
        for name, value in statement.model_dump(mode="json").items()
        if name not in NOT_SETTINGS
        and (name == "seed" or value != _plain(fields[name].get_default(call_default_factory=True)))
        and value not in (None, [], {}, "")
    ]


def _worded(words: FieldWords, value: Any) -> tuple[str, str]:
    return words.title, words.value(value)


def _plain(value: Any) -> Any:
    return list(value) if isinstance(value, tuple) else value


PIECE = Piece(
    key="session",
    title="Program and settings",
    words="the program and its settings",
    shows="the program and the settings that were chosen",
    render=_session,
)
