"""Every sentence of reports of made-up studies, in one file to be read; what none of them may be.

HOURGLASS_SENTENCES=/tmp/sentences.txt ./hourglass test tests/report/test_every_sentence.py
"""

import os
import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from made_up_studies import STUDIES, made

from hourglass.analysis.shared.result import PartResult, StageResult
from hourglass.analysis.shared.sections import Words
from hourglass.core.progress import no_progress
from hourglass.report.composed import Composed, composed
from hourglass.report.gathering import Gathering
from hourglass.report.inputs import ReportInputs
from hourglass.report.pieces.registry import PIECES
from hourglass.report.reading import read
from hourglass.report.statement import ReportStatement

IMPERATIVE = re.compile(
    r"^(Compare|Follow|Report|Estimate|Fit|Test|Choose|See|Read|Check|Look|Open|Use|Take)\b(?! with care)"
)
WRONG = re.compile(
    r"\bNone\b|\bnan\b|\{|\}|\binf\b|  |\.\.(?!\.)|\(\)|,,| ,| \.(?!\d)|\bthe the\b|\bis are\b"
    r"|\btold\b|\btells?\b|(?<![\d.,])1 (?:rows|grafts|events|subjects|terms|groups)\b|p = <|p = >"
)
"""What no sentence holds: codes, doubled words and signs, a plural of one, words that are not used."""
NO_DIFFERENCE = re.compile(
    r"no (?:significant )?difference\b(?! to (?:harm|benefit))", re.IGNORECASE
)


def sentences(found: ReportInputs, report: Composed) -> Iterator[tuple[str, str]]:
    """Where a sentence stands in a report, and the sentence."""
    yield "title", report.title
    yield "line", report.line
    for piece in report.pieces:
        yield f"{piece.key}: heading", piece.title.text
        for text in piece.running_text:
            yield f"{piece.key}: text", text
        for table in piece.tables:
            yield f"{piece.key}: caption", table.caption
            yield f"{piece.key}: head", " | ".join(filter(None, table.head))
            for row in table.rows:
                yield f"{piece.key}: row", " | ".join(cell.text for cell in row if cell.text)
            yield f"{piece.key}: note", table.note
        if piece.figure is not None:
            yield f"{piece.key}: caption", piece.figure.caption
            yield f"{piece.key}: note", piece.figure.note.text if piece.figure.note else ""
        for caution in piece.cautions:
            yield f"{piece.key}: caution", f"{caution.lead} {caution.sentence}"
        for item in piece.items:
            yield f"{piece.key}: item", item
        yield f"{piece.key}: note", piece.note.text if piece.note else ""
    for key, result in found.results.items():
        sections = result.sections if isinstance(result, StageResult | PartResult) else []
        if isinstance(result, StageResult):
            yield f"{key}: blank", result.blank or ""
            yield f"{key}: headline", result.headline
        for section in sections:
            yield f"{key}: section", section.title
            for block in section.blocks:
                if isinstance(block, Words):
                    yield f"{key}: words", block.text


@pytest.fixture(scope="module")
def written() -> Iterator[list[str]]:
    """The lines of the file, which is written where the environment names one."""
    lines: list[str] = []
    yield lines
    if os.environ.get("HOURGLASS_SENTENCES"):
        Path(os.environ["HOURGLASS_SENTENCES"]).write_text("\n".join(lines) + "\n", "utf-8")


@pytest.mark.parametrize("name", STUDIES)
def test_no_sentence_of_a_made_up_study_is_imperative_or_broken(name, written, tmp_path):
    study, statement = made(name, tmp_path), ReportStatement()
    found = Gathering(study.results, PIECES, study.study, statement).now(no_progress)
    report = composed(found, statement, PIECES)
    shown = read(found, statement, PIECES, study.results.stages, ())
    written += [f"\n#### {name}", shown.sentence.text]
    written += [f"offer: {offer.sentence}" for offer in shown.offers]
    written += [f"checklist: {p.title} {p.state} {p.words}" for p in shown.checklist]
    every = [(place, text) for place, text in sentences(found, report) if text]
    written += [f"{place}: {text}" for place, text in every]
    assert [one for one in every if WRONG.search(one[1])] == []
    running = [one for one in every if one[0].endswith((": text", ": note", ": caution", ": item"))]
    assert [one for one in running if IMPERATIVE.search(one[1])] == []
    assert [one for one in running if NO_DIFFERENCE.search(one[1])] == []
    assert [one for one in running if not one[1].endswith((".", "?", ")"))] == []
