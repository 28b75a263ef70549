"""Reading any file: which kind it is, how it is written, and the typed table it holds."""

import os
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace

import numpy as np

from hourglass.cohort.reading import delimited, packed_columns, records, spreadsheet
from hourglass.cohort.reading.apart import (
    rows_apart,
    texts_of,
    with_what_was_written,
    without_cells,
)
from hourglass.cohort.reading.cells import TypedColumn, typed_column
from hourglass.cohort.reading.lines_of_names import Described, units_of
from hourglass.cohort.reading.many_columns import plain_numbers
from hourglass.cohort.reading.no_table import refuse_what_is_no_table
from hourglass.cohort.reading.recipe import (
    Cells,
    Evidence,
    Limits,
    Reading,
    Recipe,
    UnreadableFileError,
)
from hourglass.cohort.reading.unwrapped import ZIP, unwrapped
from hourglass.cohort.table import NumberColumn, Table

USUAL = Limits()


def find_recipe(data: bytes, limits: Limits = USUAL) -> tuple[Recipe, list[Evidence], list[str]]:
    """How a file seems to be written, why, and the sheets it has (for spreadsheets).

    Raises:
        UnreadableFileError: when no way of reading it is known.
    """
    data, packing = unwrapped(data, limits)
    recipe, evidence, sheets = _recipe_of(data, limits)
    return recipe, [*packing, *evidence], sheets


def _recipe_of(data: bytes, limits: Limits) -> tuple[Recipe, list[Evidence], list[str]]:
    if delimited.SOMETHING.search(data) is None:
        raise UnreadableFileError("The file is empty. Choose a file with a header and rows.")
    refuse_what_is_no_table(data)
    if data.startswith(ZIP):
        return spreadsheet.find_recipe(data, limits)
    if data.startswith(b"PAR1"):
        return (
            Recipe(format="parquet"),
            [Evidence("format", "Parquet", "it starts with its mark")],
            [],
        )
    if data.lstrip(b"\xef\xbb\xbf \t\r\n")[:1] in (b"{", b"["):
        recipe, evidence = records.find_recipe(data, limits)
        return recipe, evidence, []
    recipe, evidence = delimited.find_recipe(data)
    return recipe, evidence, []


def read(
    data: bytes, recipe: Recipe | None = None, limits: Limits = USUAL, most_rows: int | None = None
) -> Reading:
    """Read a file into a typed table.

    Args:
        data: the file's bytes.
        recipe: how to read it; found when absent.
        most_rows: stop after about so many rows, for a preview.

    Raises:
        UnreadableFileError: with a sentence stating what is wrong, where, and what to do.
    """
    evidence: list[Evidence] = []
    sheets: list[str] = []
    if recipe is None:
        recipe, evidence, sheets = find_recipe(data, limits)
    cells = _cells(unwrapped(data, limits)[0], recipe, limits, most_rows)
    names, columns = cells.names, cells.columns
    if not columns:
        raise UnreadableFileError(
            "No cell of the file holds anything. Choose a file with a header and rows."
        )
    if most_rows is not None:
        columns = [column[:most_rows] for column in columns]
    size = len(columns[0])
    apart, mended_rows = rows_apart(names, columns)
    written = [texts_of(column, apart) for column in columns] if apart.size else []

    plain = plain_numbers(names, columns, recipe) if apart.size == 0 else {}

    def typed(k: int) -> TypedColumn:
        held, columns[k] = columns[k], None  # let go of as the types are made
        lines = [(kind, cells.described[at][k]) for at, kind in enumerate(recipe.described)
                 if at < len(cells.described)]  # fmt: skip
        known = TypedColumn(plain[k]) if k in plain else None
        found = described_column(
            known or typed_column(names[k], without_cells(held, apart), recipe), lines
        )
        if apart.size == 0:
            return found
        return replace(found, column=with_what_was_written(found.column, apart, written[k]))

    with ThreadPoolExecutor(os.cpu_count()) as threads:
        found = list(threads.map(typed, range(len(names))))
    evidence += [one for each in found for one in each.evidence]
    mended = [*cells.mended, *mended_rows, *(one for each in found for one in each.mended)]
    evidence += [Evidence("mended", one.title, one.why) for one in mended]
    table = Table(tuple(each.column for each in found), np.arange(1, size + 1), tuple(mended))
    return Reading(table, recipe, tuple(evidence), tuple(sheets))


def described_column(typed: TypedColumn, lines: list[tuple[Described, str]]) -> TypedColumn:
    """A column with the unit and the label that the lines under its name give it."""
    column = typed.column
    for kind, words in lines:
        if kind == "units" and isinstance(column, NumberColumn) and words.strip():
            column = replace(column, unit=units_of([words])[0][:40])
        elif kind == "labels" and words.strip():
            column = replace(column, label=" ".join(words.split())[:300])
    return replace(typed, column=column)


def _cells(data: bytes, recipe: Recipe, limits: Limits, most_rows: int | None) -> Cells:
    match recipe.format:
        case "delimited":
            return delimited.read_cells(data, recipe, limits, most_rows)
        case "spreadsheet":
            return spreadsheet.read_cells(data, recipe, limits)
        case "parquet":
            return packed_columns.read_cells(data, limits)
        case _:
            return records.read_cells(data, recipe, limits)
