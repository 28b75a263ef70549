"""The house's plan, enforced: who may import whom, in both languages."""

import ast
import re
import sys
from collections import Counter
from pathlib import Path

import pytest

from words_of_code import words_of_code

ROOT = Path(__file__).parents[1]
PACKAGE = ROOT / "src" / "hourglass"
WEB = ROOT / "web" / "src"

# What each package may import of ours; itself is understood.
MAY_IMPORT = {
    "core": set(),
    "cohort": {"core"},
    "analysis": {"core", "cohort"},
    "study": {"core", "cohort", "analysis"},
    "report": {"core", "cohort", "analysis", "study"},
    "store": {"core", "cohort", "analysis", "study"},
    "api": {"core", "cohort", "analysis", "study", "report", "store"},
    "cli": {"core", "cohort", "analysis", "study", "report", "store", "api"},
}
# What each package may import of others', besides the standard library.
OUTSIDE = {
    "core": {"numpy", "scipy"},
    "cohort": {"numpy", "pydantic", "pyarrow", "python_calamine", "ijson"},
    "analysis": {"numpy", "pydantic", "inflect"},
    "study": {"cachetools", "pebble", "pydantic", "structlog"},
    "report": {
        "numpy",
        "pyarrow",
        "jinja2",
        "markupsafe",
        "pydantic",
        "matplotlib",
        "fontTools",
        "weasyprint",
        "docx",
        "xlsxwriter",
    },
    "store": {"psycopg", "pydantic"},
}
TONES = PACKAGE / "analysis" / "shared" / "figure" / "tones.json"
"""The one file that the client shares with the printer."""
WEB_MAY_IMPORT = {
    "numbers": {"api"},
    "sandLine": set(),
    "theme": set(),
    "testing": set(),
    "api": set(),
    "statement": {"api", "numbers"},
    "tables": set(),
    "workings": {"api", "tables"},
    "readings": {"api", "numbers", "sandLine", "tables", "theme", "workings"},
    "tracks": {"api", "numbers", "sandLine", "tables", "theme"},
    "frame": {"api", "numbers", "sandLine", "statement", "workings", "readings", "tracks"},
    "stages": {
        "api", "numbers", "sandLine", "tables", "frame", "statement", "workings", "readings", "theme",
        "tracks",
    },
}  # fmt: skip


def imports(file: Path) -> set[str]:
    found = set()
    for node in ast.walk(ast.parse(file.read_text(encoding="utf-8"))):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom):
            assert node.level == 0, f"{file} imports relatively"
            found.add(node.module or "")
    return found


@pytest.mark.parametrize("package", MAY_IMPORT)
def test_packages_import_one_way(package):
    allowed = MAY_IMPORT[package] | {package}
    for file in (PACKAGE / package).rglob("*.py"):
        ours = {m.split(".")[1] for m in imports(file) if m.startswith("hourglass.")}
        assert ours <= allowed, f"{file.relative_to(ROOT)} imports {ours - allowed}"


@pytest.mark.parametrize("package", OUTSIDE)
def test_packages_depend_on_little(package):
    for file in (PACKAGE / package).rglob("*.py"):
        roots = {m.split(".")[0] for m in imports(file)}
        others = roots - set(sys.stdlib_module_names) - {"hourglass"}
        assert others <= OUTSIDE[package], f"{file.relative_to(ROOT)} imports {others}"


def test_every_package_is_in_the_plan():
    assert {p.name for p in PACKAGE.iterdir() if (p / "__init__.py").exists()} == set(MAY_IMPORT)
    assert {p.name for p in WEB.iterdir() if p.is_dir()} == set(WEB_MAY_IMPORT)


@pytest.mark.parametrize("folder", WEB_MAY_IMPORT)
def test_the_client_imports_one_way(folder):
    for file in (WEB / folder).rglob("*.ts*"):
        if ".test." in file.name:
            continue
        text = file.read_text(encoding="utf-8")
        for target in re.findall(r"""(?:from|import) ["'](\.[^"']+)["']""", text):
            whole = (file.parent / target).resolve()
            if whole == TONES:
                assert folder == "theme"
                continue
            reached = whole.relative_to(WEB)
            top = reached.parts[0]
            where = f"{file.relative_to(WEB)} imports {reached}"
            if top != folder:
                assert top in WEB_MAY_IMPORT[folder], where
            elif folder == "stages":
                assert reached.parts[1] == file.relative_to(WEB).parts[1], where


def test_files_are_short_enough_to_read():
    code = [*PACKAGE.rglob("*.py"), *(p for p in WEB.rglob("*.ts*") if p.name != "schema.d.ts")]
    long = {p.name: n for p in code if (n := len(p.read_text().splitlines())) > 400}
    assert long == {}


HOUSE_WORDS = {"told", "tell", "tells", "telling", "said", "say", "says", "saying"}
"""Words that hide what is meant: shown, stated, formatted, requested."""
ALLOWED_WORDS: dict[str, str] = {}
"""Files that need one of them, with the reason."""
MAX_PER_LINE = 0.3 / 1000
CODE = [
    path
    for folder in ("src", "tests", "bench", "demo", "tools", "web/src")
    for path in sorted((ROOT / folder).rglob("*"))
    if path.suffix in {".py", ".ts", ".tsx"} and path.name != "schema.d.ts"
]


def test_code_names_what_is_shown_stated_or_requested():
    found = Counter[str]()
    for path in CODE:
        words = Counter(words_of_code(path))
        own = {word for word in HOUSE_WORDS if words[word]}
        if str(path.relative_to(ROOT)) not in ALLOWED_WORDS:
            assert not own, f"{path.relative_to(ROOT)}: {own}"
        found.update({word: words[word] for word in (*own, "asked", "asks")})
    lines = sum(len(path.read_text(encoding="utf-8").splitlines()) for path in CODE)
    assert found.total() < MAX_PER_LINE * lines, found
