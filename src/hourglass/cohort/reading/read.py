"""Reading any file: which kind it is, how it is written, and the typed table it holds."""

import os
from concurrent.futures import ThreadPoolExecutor

import numpy as np

from hourglass.cohort.reading import delimited, packed_columns, records, spreadsheet
from hourglass.cohort.reading.cells import TypedColumn, typed_column
from hourglass.cohort.reading.recipe import (
    Cells,
    Evidence,
    Limits,
    Reading,
    Recipe,
    UnreadableFileError,
)
from hourglass.cohort.table import Table

USUAL = Limits()


def find_recipe(data: bytes, limits: Limits = USUAL) -> tuple[Recipe, list[Evidence], list[str]]:
    """How a file seems to be written, why, and the sheets it has (for spreadsheets).

    Raises:
        UnreadableFileError: when no way of reading it is known.
    """
    if delimited.SOMETHING.search(data) is None:
        raise UnreadableFileError("The file is empty. Choose a file with a header and rows.")
    if data.startswith(b"PK\x03\x04"):
        return spreadsheet.find_recipe(data, limits)
    if data.startswith(b"PAR1"):
        return (
            Recipe(format="parquet"),
            [Evidence("format", "Parquet", "it starts with its mark")],
            [],
        )
    if data.startswith(b"\xd0\xcf\x11\xe0"):
        raise UnreadableFileError(
            "This is a spreadsheet in an old binary format. Save it as OOXML (.xlsx), "
            "OpenDocument (.ods) or CSV and upload that."
        )
    if data.startswith(b"\x1f\x8b"):
        raise UnreadableFileError("This file is compressed. Unpack it and upload what is inside.")
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
        UnreadableFileError: with a sentence saying what is wrong, where, and what to do.
    """
    evidence: list[Evidence] = []
    sheets: list[str] = []
    if recipe is None:
        recipe, evidence, sheets = find_recipe(data, limits)
    cells = _cells(data, recipe, limits, most_rows)
    names, columns = cells.names, cells.columns
    if most_rows is not None:
        columns = [column[:most_rows] for column in columns]
    size = len(columns[0])

    def typed(k: int) -> TypedColumn:
        held, columns[k] = columns[k], None  # let go of as the types are made
        return typed_column(names[k], held, recipe)

    with ThreadPoolExecutor(os.cpu_count()) as threads:
        found = list(threads.map(typed, range(len(names))))
    evidence += [one for each in found for one in each.evidence]
    mended = [*cells.mended, *(one for each in found for one in each.mended)]
    evidence += [Evidence("mended", one.title, one.why) for one in mended]
    table = Table(tuple(each.column for each in found), np.arange(1, size + 1), tuple(mended))
    return Reading(table, recipe, tuple(evidence), tuple(sheets))


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
