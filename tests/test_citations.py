"""What the code cites of the statistical conventions is there, under that number and that title."""

import re
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
METHODS = (ROOT / "docs/methods.md").read_text(encoding="utf-8")
HEADINGS = dict(re.findall(r"^## (\d+)\. ([^(\n]+?)\s*(?:\(|$)", METHODS, re.MULTILINE))
SECTIONS = dict(re.findall(r"^## (\d+)\..*?$(.*?)(?=^## |\Z)", METHODS, re.MULTILINE | re.DOTALL))
CODE = [*(ROOT / "src").rglob("*.py"), *(ROOT / "web/src").rglob("*.ts*")]
CITED = [
    (str(file.relative_to(ROOT)), " ".join(cited.split()))
    for file in CODE
    for cited in re.findall(r"methods\.md,\s([^).]+)", file.read_text(encoding="utf-8"))
]


def test_the_conventions_are_cited():
    assert len(HEADINGS) == 11
    assert len(CITED) > 20


@pytest.mark.parametrize(("file", "cited"), CITED, ids=[f"{f}: {c[:20]}" for f, c in CITED])
def test_every_citation_names_a_section_by_number_and_title(file, cited):
    for one in re.split(r";\s(?=section)|,\s\"", cited):
        if not one.startswith("section"):
            continue
        number, title = re.fullmatch(r"section (\d+): (.+)", one).groups()
        assert HEADINGS[number] == title, f"{file}: {one}"
    assert "section" in cited
    for passage in re.findall(r'"([^"]+)"', cited):
        assert passage.lower() in SECTIONS[number].lower(), (
            f"{file}: section {number} has no {passage}"
        )
