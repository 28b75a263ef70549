"""The wheel: what it holds, and that the program runs where nothing but it is installed."""

import os
import re
import shutil
import signal
import subprocess
import sys
import tempfile
import urllib.request
import zipfile
from pathlib import Path

import pytest

from hourglass.cli.machine import ROOT
from hourglass.cli.package import build_wheel

pytestmark = [pytest.mark.timeout(600), pytest.mark.xdist_group("wheel")]
OWN = ("PYTHONPATH", "HOURGLASS_VAR", "DATABASE_URL", "VIRTUAL_ENV")


@pytest.fixture(scope="module")
def folder():
    """A folder that PostgreSQL's account can reach, too."""
    made = Path(tempfile.mkdtemp(prefix="hourglass-wheel-"))
    made.chmod(0o755)
    yield made
    shutil.rmtree(made, ignore_errors=True)


@pytest.fixture(scope="module")
def wheel(folder):
    return build_wheel(folder / "made")


@pytest.fixture(scope="module")
def installed(folder, wheel):
    """The commands of an environment in which the wheel was installed, and what it needs."""
    place = folder / "environment"
    subprocess.run([sys.executable, "-m", "venv", str(place)], check=True)
    pins = re.findall(r"^\S+==\S+(?: ;[^\\]*)?", (ROOT / "requirements.lock").read_text(), re.M)
    (folder / "pins").write_text("\n".join(pins))
    command = [
        place / "bin" / "python",
        "-m",
        "pip",
        "install",
        "--quiet",
        "--no-compile",
        "-c",
        folder / "pins",
    ]
    subprocess.run([*command, wheel], check=True)
    return place / "bin"


@pytest.fixture
def elsewhere(folder, tmp_path):
    """How a program is run by somebody who has no checkout."""
    kept = {name: value for name, value in os.environ.items() if name not in OWN}
    return {"cwd": folder, "env": {**kept, "HOME": str(folder), "XDG_DATA_HOME": str(folder)}}


def test_the_wheel_holds_all_that_the_program_is_made_of(wheel):
    names = set(zipfile.ZipFile(wheel).namelist())
    for file in (ROOT / "src" / "hourglass").rglob("*"):
        if file.is_file() and file.suffix != ".pyc":
            assert str(file.relative_to(ROOT / "src")) in names
    for file in (ROOT / "web" / "dist").rglob("*"):
        if file.is_file() and not file.name.startswith("."):
            assert f"hourglass/client/{file.relative_to(ROOT / 'web' / 'dist')}" in names
    assert {"hourglass/demo/larkmoor.json", "hourglass/demo/larkmoor_grafts.csv"} <= names
    assert not {name for name in names if name.startswith(("tests", "hourglass/demo/imports"))}


def test_the_demo_runs_where_nothing_but_the_wheel_is_installed(installed, elsewhere, tmp_path):
    command = [installed / "hourglass", "demo", "--out", tmp_path / "out"]
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL, **elsewhere)
    made = {file.name for file in (tmp_path / "out").iterdir()}
    assert {"report.html", "results.json", "plan.json"} <= made
    assert "report.pdf" not in made, "the extra that lays out pages is not installed"
    packages = {file.name for file in installed.parent.rglob("site-packages/*")}
    assert not packages & {"ruff", "mypy", "pytest", "weasyprint", "hypothesis"}
    shown = subprocess.check_output([installed / "hourglass", "--help"], text=True, **elsewhere)
    assert "doctor" in shown
    assert "bench" not in shown, "what needs the sources is not offered"


def test_the_program_starts_and_keeps_its_data_among_the_users(installed, elsewhere, folder):
    environment = {**elsewhere["env"], "PORT": "0"}
    program = subprocess.Popen(
        [installed / "hourglass", "start"],
        cwd=folder, env=environment, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True,
    )  # fmt: skip
    try:
        printed = ""
        for line in program.stdout:
            printed += line
            if "is ready at" in line:
                break
        found = re.search(r"(http://\S+?)/\?token=(\S+)", printed)
        assert found, printed
        for page, words in (("/", b"<title>"), ("/interface-files/swagger-ui.css", b"swagger")):
            request = urllib.request.Request(found[1] + page)
            request.add_header("Authorization", f"Bearer {found[2]}")
            with urllib.request.urlopen(request, timeout=20) as answer:
                assert words in answer.read()
        assert (folder / "olden-hourglass" / "files").is_dir()
    finally:
        program.send_signal(signal.SIGTERM)
        program.communicate(timeout=60)
    assert program.returncode == 0
