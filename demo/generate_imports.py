"""Made-up files, one for each layout and difficulty that Prepare must read. Writes demo/imports.

Run it with the program's own Python; the OOXML and OpenDocument files are written by hand, part by
part, so that nothing else is needed. With a folder, and a seed, it writes there the data extracts that are
spoiled (awkward_exports.py) and that mislead (misleading_exports.py), as the tests read them.
"""

import io
import json
import sys
import zipfile
from datetime import date, timedelta
from pathlib import Path
from xml.sax.saxutils import escape

import numpy as np
import pyarrow as pa
from pyarrow import parquet

import awkward_exports
import misleading_exports

HERE = Path(__file__).parent / "imports"
FIRST = date(2018, 1, 8)
MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"]
rng = np.random.default_rng(20261123)


def day(offset: int) -> date:
    return FIRST + timedelta(days=int(offset))


def clinic() -> None:
    """Windows-1252, semicolons, decimal comma, points for thousands, a preamble and a footer."""
    lines = ["Klinik Möwenbach;;;;;;", "Auszug vom 03.02.2022;;;;;;", ""]
    lines.append("Nr;Beginn;Ende;Ausgang;Gewicht;Kosten;Größe")
    total = 0
    for k in range(120):
        begin = int(rng.integers(0, 900))
        end = begin + int(rng.integers(20, 500))
        cost = int(rng.integers(800, 9000))
        total += cost
        weight = "-" if k % 40 == 7 else f"{rng.normal(74, 11):.1f}".replace(".", ",")
        money = f"{cost // 1000}.{cost % 1000:03d},{k % 10}0" if cost > 999 else f"{cost},00"
        outcome = "verstorben" if k % 3 == 0 else "lebt"
        dates = [f"{d.day:02d}.{d.month:02d}.{d.year}" for d in (day(begin), day(end))]
        lines.append(f"{k + 1};{dates[0]};{dates[1]};{outcome};{weight};{money};{150 + k % 45}")
    lines.append(f"Total;;;;;{total // 1000}.{total % 1000:03d},00;")
    (HERE / "clinic_semicolons.csv").write_bytes("\r\n".join(lines).encode("cp1252") + b"\r\n")


def registry() -> None:
    """UTF-16 with tabs, months by name, two-digit years of birth."""
    lines = ["person\tborn\tdiagnosed\tlast contact\tstatus\tregion"]
    for k in range(80):
        born = date(1936 + k % 50, 1 + k % 12, 1 + k % 28)
        begin, end = day(k * 9), day(k * 9 + 60 + (k * 37) % 700)
        shown = [f"{d.day} {MONTHS[d.month - 1]} {d.year}" for d in (begin, end)]
        status = ["Alive", "dead", "DEAD", "alive "][k % 4]
        lines.append(
            f"R{k:03d}\t{born.month:02d}/{born.day:02d}/{born.year % 100:02d}\t{shown[0]}\t{shown[1]}"
            f"\t{status}\t{'Vännäs' if k % 2 else 'Ōmura'}"
        )
    (HERE / "registry_utf16.tsv").write_bytes("\n".join(lines).encode("utf-16"))


def dates() -> None:
    """Dates nobody can order, dates in two formats, and a day that does not exist."""
    lines = ["id,seen,left,came,ended"]
    for k in range(40):
        either = f"{1 + k % 12:02d}/{1 + (k * 5) % 12:02d}/2019"
        both = f"{13 + k % 15}/02/2020" if k % 2 else f"02/{13 + k % 15}/2020"
        came = "31/02/2020" if k == 11 else f"{1 + k % 28:02d}/03/2020"
        lines.append(f"d{k},{either},{both},{came},{k % 2}")
    (HERE / "doubtful_dates.csv").write_text("\n".join(lines) + "\n")


def trial() -> None:
    """The analysis layout for time to event as Dataset-JSON, two parameters."""
    names = ["USUBJID", "TRTA", "PARAMCD", "PARAM", "AVAL", "AVALU", "CNSR", "EVNTDESC"]
    rows = []
    for k in range(90):
        arm = ["Veltane", "Placebo"][k % 2]
        for code, words, mean in (
            ("OS", "Overall survival", 420),
            ("PFS", "Until progression", 200),
        ):
            time = int(5 + rng.exponential(mean))
            cnsr = int(k % 3 == 0) + int(k % 12 == 0)
            text = ["event", "still followed", "withdrew"][cnsr]
            rows.append([f"VT-{k:03d}", arm, code, words, time, "DAYS", cnsr, text])
    kinds = {"AVAL": "integer", "CNSR": "integer"}
    made = {
        "datasetJSONCreationDateTime": "2022-05-01T10:00:00",
        "datasetJSONVersion": "1.1.0",
        "itemGroupOID": "IG.ADTTE",
        "records": len(rows),
        "name": "ADTTE",
        "label": "Time to event",
        "columns": [
            {
                "itemOID": f"IT.{n}",
                "name": n,
                "label": n.title(),
                "dataType": kinds.get(n, "string"),
            }
            for n in names
        ],
        "rows": rows,
    }
    (HERE / "trial_times.json").write_text(json.dumps(made))


def lamps() -> None:
    """A workbook: a title above the names, a count of identical lamps in each row, a sheet of notes."""
    rows: list[list[object]] = [["Lamp test, bench 4"], [], ["type", "hours", "state", "count"]]
    for k in range(60):
        kind = ["amber", "clear"][k % 2]
        rows.append([kind, 100 + (k * 173) % 2400, ["burnt out", "running"][k % 3 == 0], 1 + k % 5])
    notes = [["Count is the number of lamps that ended alike."]]
    workbook(HERE / "lamp_counts.xlsx", {"Notes": notes, "Bench": rows})


def workbook(path: Path, sheets: dict[str, list[list[object]]]) -> None:
    """Write a workbook with its sheets."""
    head = '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>'
    main = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
    rels = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
    kind = "application/vnd.openxmlformats-officedocument.spreadsheetml"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as out:
        parts = "".join(
            f'<Override PartName="/xl/worksheets/sheet{k}.xml" ContentType="{kind}.worksheet+xml"/>'
            for k in range(1, len(sheets) + 1)
        )
        _add(out, "[Content_Types].xml", head + '<Types xmlns="http://schemas.openxmlformats.org/package/2006/'
             'content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.'
             'relationships+xml"/><Override PartName="/xl/workbook.xml" '
             f'ContentType="{kind}.sheet.main+xml"/>'
             f"{parts}</Types>")  # fmt: skip
        package = "http://schemas.openxmlformats.org/package/2006/relationships"
        _add(out, "_rels/.rels", f'{head}<Relationships xmlns="{package}"><Relationship Id="r1" '
             f'Type="{rels}/officeDocument" Target="xl/workbook.xml"/></Relationships>')  # fmt: skip
        names = "".join(
            f'<sheet name="{escape(name)}" sheetId="{k}" r:id="r{k}"/>'
            for k, name in enumerate(sheets, start=1)
        )
        _add(out, "xl/workbook.xml", f'{head}<workbook xmlns="{main}" xmlns:r="{rels}"><sheets>{names}'
             "</sheets></workbook>")  # fmt: skip
        targets = "".join(
            f'<Relationship Id="r{k}" Type="{rels}/worksheet" Target="worksheets/sheet{k}.xml"/>'
            for k in range(1, len(sheets) + 1)
        )
        _add(
            out,
            "xl/_rels/workbook.xml.rels",
            f'{head}<Relationships xmlns="{package}">{targets}</Relationships>',
        )
        for k, rows in enumerate(sheets.values(), start=1):
            body = "".join(
                f'<row r="{r}">'
                + "".join(_ooxml_cell(v, r, c) for c, v in enumerate(row))
                + "</row>"
                for r, row in enumerate(rows, start=1)
            )
            _add(out, f"xl/worksheets/sheet{k}.xml",
                 f'{head}<worksheet xmlns="{main}"><sheetData>{body}</sheetData></worksheet>')  # fmt: skip


def _ooxml_cell(value: object, row: int, column: int) -> str:
    at = f"{chr(65 + column)}{row}"
    if isinstance(value, int | float):
        return f'<c r="{at}"><v>{value}</v></c>'
    return f'<c r="{at}" t="inlineStr"><is><t>{escape(str(value))}</t></is></c>'


def _add(out: zipfile.ZipFile, name: str, text: str) -> None:
    out.writestr(zipfile.ZipInfo(name, (2022, 1, 1, 0, 0, 0)), text)


def valves() -> None:
    """Tallies of failures and withdrawals at each inspection, as OpenDocument."""
    rows: list[list[object]] = [["weeks", "failed", "withdrawn", "batch"]]
    for batch in ("north", "south"):
        for k in range(1, 13):
            rows.append([4 * k, int(rng.integers(0, 6)), int(rng.integers(0, 4)), batch])
    urn = "urn:oasis:names:tc:opendocument:xmlns"
    body = "".join(
        "<table:table-row>" + "".join(map(_open_cell, row)) + "</table:table-row>" for row in rows
    )
    content = (
        f'<?xml version="1.0" encoding="UTF-8"?><office:document-content xmlns:office="{urn}:office:1.0" '
        f'xmlns:table="{urn}:table:1.0" xmlns:text="{urn}:text:1.0" office:version="1.2"><office:body>'
        f'<office:spreadsheet><table:table table:name="Valves">{body}</table:table></office:spreadsheet>'
        "</office:body></office:document-content>"
    )
    media = "application/vnd.oasis.opendocument.spreadsheet"
    with zipfile.ZipFile(HERE / "valve_tallies.ods", "w", zipfile.ZIP_DEFLATED) as out:
        out.writestr(zipfile.ZipInfo("mimetype", (2022, 1, 1, 0, 0, 0)), media)
        _add(out, "content.xml", content)
        _add(out, "META-INF/manifest.xml", '<?xml version="1.0" encoding="UTF-8"?><manifest:manifest '
             f'xmlns:manifest="{urn}:manifest:1.0"><manifest:file-entry manifest:full-path="/" '
             f'manifest:media-type="{media}"/></manifest:manifest>')  # fmt: skip


def _open_cell(value: object) -> str:
    kind, words = "string", ""
    if isinstance(value, int | float):
        kind, words = "float", f' office:value="{value}"'
    text = escape(str(value))
    head = f'<table:table-cell office:value-type="{kind}"{words}>'
    return f"{head}<text:p>{text}</text:p></table:table-cell>"


def arms() -> None:
    """One column of times, and a status column for each group."""
    lines = ["months,status_old,status_new"]
    for k in range(70):
        time, status = 1 + (k * 13) % 48, int(k % 4 != 0)
        lines.append(f"{time},{status}," if k % 2 else f"{time},,{status}")
    (HERE / "status_by_arm.csv").write_text("\n".join(lines) + "\n")


def spells() -> None:
    """Several rows for each subject, (start, stop], with a dose that changes; as Parquet."""
    ids, start, stop, dose, event = [], [], [], [], []
    for k in range(50):
        at = 0.0
        pieces = 1 + k % 4
        for piece in range(pieces):
            end = at + float(10 + (k * 7 + piece * 5) % 60)
            ids.append(f"S{k:02d}")
            start.append(at)
            stop.append(end)
            dose.append(5.0 * (1 + (k + piece) % 3))
            event.append(int(piece == pieces - 1 and k % 3 != 0))
            at = end
    table = pa.table(
        {"subject": ids, "day_start": start, "day_stop": stop, "dose": dose, "event": event}
    )
    out = io.BytesIO()
    parquet.write_table(table, out)
    (HERE / "changing_doses.parquet").write_bytes(out.getvalue())


def ward() -> None:
    """A log of dated happenings with times and zones, in no order."""
    lines = []
    for k in range(60):
        sex = ["f", "m"][k % 2]
        happened = [("admitted", 0), ("visit", 30 + k)]
        if k % 3 == 0:
            happened.append(("relapse", 90 + 2 * k))
        if k % 5 == 0:
            happened.append(("died", 300 + k))
        happened.append(("visit", 200 + 3 * k if k % 5 else 100))
        for what, later in happened:
            moment = f"{day(k * 5 + later).isoformat()}T0{k % 9}:30:00+01:00"
            lines.append(f"W{k:02d},{moment},{what},{sex}")
    order = rng.permutation(len(lines))
    text = "patient,moment,what,sex\n" + "\n".join(lines[i] for i in order) + "\n"
    (HERE / "ward_log.csv").write_text(text)


def codes() -> None:
    """Bars, words for outcomes in several spellings, 99 for missing, a reversed flag, repeats."""
    lines = ["bed|days|how it ended|censored|age|group"]
    for k in range(150):
        time = 10 + (k * 29) % 700
        event = k % 5 < 2
        text = ["Died", "died ", "DIED"][k % 3] if event else ["alive", "Alive"][k % 2]
        age = 99 if k % 30 == 4 else 30 + (k * 7) % 50
        group = ["Sun", "sun", "Moon", "moön"][k % 4]
        lines.append(f"B{k}|{time}|{text}|{int(not event)}|{age}|{group}")
    lines += lines[10:12]
    (HERE / "beds_with_bars.txt").write_text("\n".join(lines) + "\n", encoding="utf-8")


def composite() -> None:
    """Records with several dated events, of which the earliest counts, and a last contact."""
    records = []
    for k in range(75):
        begin = day(k * 4)
        record: dict[str, object] = {"id": 1000 + k, "randomised": begin.isoformat()}
        record["arm"] = ["A", "B"][k % 2]
        record["relapse_on"] = day(k * 4 + 100 + k).isoformat() if k % 3 == 0 else None
        record["died_on"] = day(k * 4 + 260 + k).isoformat() if k % 4 == 0 else None
        record["last_contact"] = day(k * 4 + 400).isoformat()
        record["responder"] = k % 3 == 1
        records.append(record)
    (HERE / "composite_ends.json").write_text(json.dumps(records, indent=1))


def pumps() -> None:
    """No names, spreadsheet day numbers for dates, and everything failed."""
    lines = []
    for k in range(45):
        begin = 43_100 + 3 * k
        lines.append(f"{begin}\t{begin + 20 + (k * 11) % 300}\t1\t{['left', 'right'][k % 2]}")
    (HERE / "pumps_without_names.tsv").write_text("\n".join(lines) + "\n")


def write_spoiled(folder: Path, seed: int) -> None:
    """Write one of each export that is spoiled, or that misleads."""
    folder.mkdir(parents=True, exist_ok=True)
    for make in (*awkward_exports.EXPORTS.values(), *misleading_exports.EXPORTS.values()):
        made = make(seed)
        (folder / made.name).write_bytes(made.data)


if __name__ == "__main__":
    if len(sys.argv) > 1:
        write_spoiled(Path(sys.argv[1]), int(sys.argv[2]) if len(sys.argv) > 2 else 1)
        sys.exit()
    HERE.mkdir(exist_ok=True)
    for make in (
        clinic, registry, dates, trial, lamps, valves, arms, spells, ward, codes, composite, pumps
    ):  # fmt: skip
        make()
