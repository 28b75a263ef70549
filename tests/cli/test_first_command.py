"""The first command in a checkout prepares the environment; another beside it waits for that."""

import os
import shutil
import subprocess

import pytest

from hourglass.cli.machine import ROOT

PRINT = "import sys; print('ran', *sys.argv[1:])"


@pytest.fixture
def fresh(tmp_path):
    """A checkout in which nothing was prepared, of a program that needs no packages."""
    shutil.copy(ROOT / "hourglass", tmp_path)
    for lock in ("requirements.lock", "requirements-dev.lock"):
        (tmp_path / lock).write_text("")
    package = tmp_path / "src" / "hourglass" / "cli"
    package.mkdir(parents=True)
    (package.parent / "__init__.py").touch()
    (package / "__init__.py").touch()
    (package / "__main__.py").write_text(PRINT)
    return tmp_path


def begun(folder, *words):
    clean = {name: value for name, value in os.environ.items() if name != "PYTHONPATH"}
    return subprocess.Popen(
        [folder / "hourglass", *words],
        env=clean, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
    )  # fmt: skip


def test_two_first_commands_prepare_one_environment_and_both_run(fresh):
    both = [begun(fresh, "start"), begun(fresh, "demo", "--out", "x")]
    ended = [one.communicate(timeout=300) for one in both]
    assert [out for out, _ in ended] == ["ran start\n", "ran demo --out x\n"]
    printed = "".join(errors for _, errors in ended)
    assert printed.count("Preparing Python packages …") == 1
    assert not (fresh / ".venv" / "requirements-dev.lock").exists(), (
        "no linter for those who start it"
    )
    _, errors = begun(fresh, "check").communicate(timeout=300)
    assert "for development" in errors
    assert begun(fresh, "check").communicate(timeout=300) == ("ran check\n", "")
