"""Files made to break whoever reads them, each by a name; run by itself, it writes them into a folder."""

import bz2
import gzip
import io
import json
import resource
import struct
import sys
import time
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

import pyarrow as pa
from pyarrow import parquet

from hourglass.cohort.reading.read import read
from hourglass.cohort.reading.recipe import UnreadableFileError
from workbooks import DEMO, SHEET, shared_text, workbook


class Hostile(NamedTuple):
    """A file; ``words`` are in its refusal, or None where it may be read as well as refused."""

    name: str
    make: Callable[[], bytes]
    words: str | None = None


def document(body):
    """An OpenDocument sheet of the given rows."""
    out = io.BytesIO()
    with zipfile.ZipFile(DEMO / "valve_tallies.ods") as source:
        content = source.read("content.xml").decode()
        start = content.index("<table:table-row>")
        end = content.rindex("</table:table>")
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
            for part in source.namelist():
                held = content[:start] + body + content[end:]
                made.writestr(part, held if part == "content.xml" else source.read(part))
    return out.getvalue()


def elsewhere(body, place="xl/other/s.xml"):
    """A workbook whose sheet lies in another place than is usual, as the workbook lists it."""
    out = io.BytesIO()
    with (
        zipfile.ZipFile(io.BytesIO(workbook(body))) as source,
        zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made,
    ):
        for part in source.namelist():
            held = source.read(part).replace(b"worksheets/sheet1.xml", place[3:].encode())
            made.writestr(place if part == "xl/worksheets/sheet1.xml" else part, held)
    return out.getvalue()


def zeros(rows):
    """A table of zeros, written in pieces: a few hundred kilobytes hold any number of them."""
    out, piece = io.BytesIO(), pa.table({"x": pa.array([0] * 1_000_000, pa.int64())})
    with parquet.ParquetWriter(out, piece.schema, compression="zstd") as writer:
        for _ in range(rows // 1_000_000):
            writer.write_table(piece, row_group_size=1_000_000)
    return out.getvalue()


def of_arrow(**columns):
    out = io.BytesIO()
    parquet.write_table(pa.table(columns), out)
    return out.getvalue()


def zipped(method=zipfile.ZIP_DEFLATED, **files):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", method) as made:
        for name, body in files.items():
            made.writestr(name, body)
    return out.getvalue()


def packed_again(data, times):
    for _ in range(times):
        data = gzip.compress(data)
    return data


def declaring(size):
    """An archive whose one file is of another size than is declared."""
    data = bytearray(zipped(**{"a.csv": LONG_ROWS}))
    data[22:26] = struct.pack("<I", size)
    at = data.index(b"PK\x01\x02")
    data[at + 24 : at + 28] = struct.pack("<I", size)
    return bytes(data)


def encrypted():
    """An archive whose header claims that its one file is encrypted."""
    data = bytearray(zipped(**{"a.csv": "t,s\n1,1\n"}))
    data[6] |= 1
    data[data.index(b"PK\x01\x02") + 8] |= 1
    return bytes(data)


def unknown_method():
    data = bytearray(zipped(**{"a.csv": "t,s\n1,1\n"}))
    data[8] = data[data.index(b"PK\x01\x02") + 10] = 99
    return bytes(data)


def sheet(rows):
    return workbook(f"{SHEET}{rows}</sheetData></worksheet>")


def cell(place, value="1"):
    return f'<c r="{place}"><v>{value}</v></c>'


def ods_row(cells, repeated=""):
    return f"<table:table-row{repeated}>{cells}</table:table-row>"


ODS_ONE = '<table:table-cell{} office:value-type="float" office:value="1"/>'
FAR = f'{SHEET}<row r="1">{cell("A1")}{cell("XFD1")}</row></sheetData></worksheet>'
LAUGHS = "".join(f'<!ENTITY l{k} "{f"&l{k - 1};" * 10}">' for k in range(1, 10))
LAUGHING = (
    f'<?xml version="1.0"?><!DOCTYPE w [<!ENTITY l0 "ha">{LAUGHS}]>'
    + SHEET.replace("<sheetData>", "<sheetData><row r='1'><c r='A1' t='str'><v>&l9;</v></c></row>")
    + "</sheetData></worksheet>"
)
LONG_ROWS = b"t,s\n" + b"1,1\n" * 3

HOSTILE = [
    # Workbooks and documents.
    Hostile("sheet elsewhere", lambda: elsewhere(FAR), "column 16.384"),
    Hostile("sheet elsewhere in capitals", lambda: elsewhere(FAR, "xl/S.BIN"), "column 16.384"),
    Hostile("attributes on lines of their own",
            lambda: elsewhere(FAR.replace(' r="', '\n r = "').replace("XFD1", "xfd1")), "column 16.384"),
    Hostile("300 MB of spaces in a sheet", lambda: elsewhere(SHEET + " " * 300_000_000),
            "far more than an honest one"),
    Hostile("a far column", lambda: workbook(FAR), "column 16.384"),
    Hostile("a far row",
            lambda: sheet(f'<row r="1">{cell("A1")}</row><row r="1048576">{cell("CV1048576")}</row>'),
            "1.048.576 rows"),
    Hostile("one shared text in 120,000 cells", lambda: shared_text("ab" * 15_000, 120_000),
            "1.024 MB of text, some of it repeated"),
    Hostile("entities within entities", lambda: workbook(LAUGHING), "of the workbook cannot be read"),
    Hostile("numbers that are no numbers", lambda: sheet("".join(
        f'<row r="{k}">{cell(f"A{k}", "1e99999")}{cell(f"B{k}", "nan")}</row>' for k in range(1, 900)))),
    Hostile("cells that name no place", lambda: sheet('<row r="x"><c r="??"><v>1</v></c></row>'),
            "of the workbook cannot be read"),
    Hostile("a sheet that breaks off", lambda: workbook(SHEET + f'<row r="1">{cell("A1")}')),
    Hostile("a sheet of noise", lambda: workbook("\x00\xff" * 5_000)),
    Hostile("a shared text that is not there",
            lambda: sheet('<row r="1"><c r="A1" t="s"><v>99999999999999999999</v></c></row>')),
    Hostile("100,000 merged cells", lambda: workbook(
        f'{SHEET}<row r="1">{cell("A1")}</row><row r="2">{cell("A2")}</row></sheetData><mergeCells>'
        + "".join(f'<mergeCell ref="A{k}:XFD{k + 1}"/>' for k in range(1, 200_000, 2))
        + "</mergeCells></worksheet>")),
    Hostile("a document with a repeated column", lambda: document(
        ods_row(ODS_ONE.format(' table:number-columns-repeated="1000000"'))), "column 1.000.000"),
    Hostile("a document with a repeated row", lambda: document(
        ods_row(ODS_ONE.format(""), ' table:number-rows-repeated="1000000000"')), "1.000.000.000 rows"),
    Hostile("a document with much repeated text", lambda: document(
        '<table:table-row table:number-rows-repeated="60000"><table:table-cell '
        'table:number-columns-repeated="20" office:value-type="string"><text:p>'
        f'{"word " * 400}</text:p></table:table-cell></table:table-row>'), "1.024 MB of text"),
    Hostile("a document that repeats itself a negative number of times", lambda: document(
        ods_row(ODS_ONE.format(' table:number-columns-repeated="-5"')) * 3)),
    # Archives and packed files.
    Hostile("no archive after all", lambda: b"PK\x03\x04" + b"\x00" * 100, "cannot be opened"),
    Hostile("gzip that is none", lambda: b"\x1f\x8b" + b"x" * 50, "gzip file is damaged"),
    Hostile("2 GB of spaces in gzip", lambda: gzip.compress(b" " * 2**24) * 129, "larger than 2.048 MB"),
    Hostile("gzip in gzip in gzip in gzip", lambda: packed_again(LONG_ROWS, 4), "more than 3 times over"),
    Hostile("gzip that breaks off", lambda: gzip.compress(LONG_ROWS * 9999)[:-9],
            "breaks off before its end"),
    Hostile("an archive that declares 3 GB", lambda: declaring(3 << 30), "larger than 2.048 MB"),
    Hostile("an archive that declares less than it holds", lambda: declaring(5), "cannot be opened"),
    Hostile("archives in one another", lambda: zipped(**{"a.zip": zipped(**{"a.csv": LONG_ROWS})})),
    Hostile("50,000 files in an archive",
            lambda: zipped(**{f"{k}.csv": "" for k in range(50_000)}), "holds 50.000 files"),
    Hostile("a file above its folder", lambda: zipped(**{"../../../etc/a.csv": LONG_ROWS})),
    Hostile("an encrypted archive", encrypted, "is encrypted"),
    Hostile("an archive packed in an unknown way", unknown_method, "cannot be opened"),
    Hostile("an archive whose sum is wrong",
            lambda: zipped(zipfile.ZIP_STORED, **{"a.csv": LONG_ROWS}).replace(b"1,1", b"1,2"),
            "cannot be opened"),
    Hostile("bzip2", lambda: bz2.compress(LONG_ROWS * 999), "cannot be unpacked here"),
    # Tables of columns.
    Hostile("90 million zeros", lambda: zeros(90_000_000), "1.000 times its size"),
    Hostile("no Parquet after all", lambda: b"PAR1" + b"\x00" * 64 + b"PAR1", "Parquet file cannot be read"),
    Hostile("Parquet with a footer of 2 GB",
            lambda: b"PAR1" + b"x" * 64 + struct.pack("<I", 2**31 - 1) + b"PAR1",
            "Parquet file cannot be read"),
    Hostile("Parquet of 6,000 columns",
            lambda: of_arrow(**{f"c{k}": pa.array([1, 2]) for k in range(6_000)}), "5.000 columns"),
    Hostile("Parquet of lists in lists",
            lambda: of_arrow(x=pa.array([[[[[1]]]], [[[[2]]]]]), t=pa.array([1, 2]))),
    Hostile("Parquet that breaks off", lambda: of_arrow(t=pa.array(range(50_000)))[:20_000],
            "Parquet file cannot be read"),
    Hostile("Parquet of numbers beyond all days",
            lambda: of_arrow(t=pa.array([2**62, -(2**62)], pa.int64()).cast(pa.timestamp("us")),
                             s=pa.array([1, 0]))),
    # Records.
    Hostile("a number of 100,000 digits", lambda: b'[{"a":' + b"9" * 100_000 + b',"t":1}]',
            "Line 1 of the JSON holds a number of 100.000"),
    Hostile("a number of 5,000 decimals", lambda: b'[{"a":1},\n{"a":-1.' + b"3" * 5_000 + b"e7}]",
            "Line 2 of the JSON holds a number of 5.005"),
    Hostile("100,000 lists in one another", lambda: b"[" * 100_000, "nested more than 12 deep"),
    Hostile("50,000 records in one another", lambda: b'{"a":' * 50_000, "nested more than 12 deep"),
    Hostile("JSON that breaks off", lambda: b'[{"a": 1}, {"a": 2', "breaks off"),
    Hostile("a record of 6,000 names", lambda: json.dumps([{f"c{k}": 1} for k in range(6000)]).encode(),
            "5.000 columns"),
    Hostile("lists in records", lambda: json.dumps([{"a": [1, 2]}]).encode(), "lists or records themselves"),
    Hostile("a number among records", lambda: b'[{"a": 1}, 7]', "not a list of records"),
    Hostile("more cells than columns", lambda: b'{"columns": [{"name": "a"}], "rows": [[1, 2]]}',
            "Row 1 has 2 cells where 1 columns"),
    Hostile("exponents without end", lambda: b'[{"a": 1e999999999, "t": -1e999999999}]'),
    Hostile("half a character", lambda: b'[{"a": "\\ud800", "t": 1}, {"a": "x", "t": 2}]'),
    Hostile("a text of 50 MB", lambda: b'[{"a": "' + b"x" * 50_000_000 + b'", "t": 1}]'),
    # Text.
    Hostile("the old binary format", lambda: b"\xd0\xcf\x11\xe0" + b"x" * 50, "old binary format"),
    Hostile("a first cell of 5 MB", lambda: b'a,"' + b"x" * 5_000_000 + b'"\n1,2\n',
            "first line does not end within"),
    Hostile("a first line of 5 MB", lambda: b"x" * 5_000_000, "first line does not end within"),
    Hostile("quotation marks only", lambda: b'"' * 5_000_000, "first line does not end within"),
    Hostile("a million columns", lambda: b"a" + b",a" * 1_000_000 + b"\n1\n", "1.000.001 columns"),
    Hostile("a cell of 50 MB", lambda: b"a,t\nx,1\n" + b"y" * 50_000_000 + b",2\n", "longer than a million"),
    Hostile("a quotation mark that is never closed", lambda: b't,s\n1,"' + b"1,1\n" * 2_000_000,
            "longer than a million"),
    Hostile("2 million quotation marks", lambda: b"t,s\n" + b'"""",1\n' * 500_000),
    Hostile("zero bytes", lambda: b"t,s\n1,1\n\x00\x00,\x00\n2,0\n", "binary data file"),
    Hostile("half of UTF-16", lambda: "t,s\n1,1\n2,0\n".encode("utf-16")[:-1], "breaks off at byte"),
    Hostile("dates of a million digits", lambda: b"t,s\n" + (b"1-" * 400_000 + b"1,1\n") * 3),
    Hostile("a megabyte of spaces in each cell", lambda: b"t,s\n" + (b" " * 1_000_000 + b"x,1\n") * 20),
    Hostile("nothing but line ends", lambda: b"\n" * 3_000_000, "file is empty"),
    Hostile("nothing but delimiters", lambda: (b"," * 2_000 + b"\n") * 2_000, "No cell of the file"),
    Hostile("names that are formulas", lambda: b"=1+1,@x,<script>,\xe2\x80\xae\n1,2,3,4\n"),
]  # fmt: skip


def reading(data):
    """What came of reading a file, as (rows, levels of its first column) or the refusal, and the bytes
    by which that raised the peak memory of this process."""
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    try:
        found = read(data).table
    except UnreadableFileError as refused:
        outcome = str(refused)
    else:
        outcome = found.size, len(getattr(found.columns[0], "levels", ()))
    return outcome, (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) * 1024


def reading_hostile(place):
    """What came of reading a hostile file, with its size and how many seconds it took."""
    data, begun = HOSTILE[place].make(), time.monotonic()
    outcome, grown = reading(data)
    return outcome, grown, len(data), time.monotonic() - begun


def main(folder: Path) -> None:
    """Write all of them into a folder."""
    folder.mkdir(parents=True, exist_ok=True)
    for one in HOSTILE:
        (folder / one.name.replace("/", " ")).write_bytes(one.make())


if __name__ == "__main__":
    main(Path(sys.argv[1]))
