"""What the commands state about themselves."""

import os
import subprocess
import sys

import typer.main
from typer.testing import CliRunner

from hourglass.cli.__main__ import app
from hourglass.cli.machine import ROOT


def commands(command, name=()):
    """Every command with its words, those of groups included."""
    for word, one in getattr(command, "commands", {}).items():
        yield (*name, word), one
        yield from commands(one, (*name, word))


def test_every_command_and_everything_that_it_takes_is_explained():
    found = dict(commands(typer.main.get_command(app)))
    assert {("run",), ("apply",), ("seal",), ("demo",), ("study", "export")} <= found.keys()
    for words, command in found.items():
        assert command.help, words
        for taken in command.params:
            assert getattr(taken, "help", None), (words, taken.name)


def test_a_command_loads_only_what_it_needs():
    loaded = "import sys, hourglass.cli.__main__; print(*sys.modules)"
    environment = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
    names = subprocess.check_output([sys.executable, "-c", loaded], text=True, env=environment)
    heavy = {"fastapi", "scipy", "pydantic", "matplotlib", "docx", "psycopg"}
    assert not heavy & set(names.split())


def test_a_wrong_command_line_ends_with_2():
    assert CliRunner().invoke(app, ["run", "no such plan.json"]).exit_code == 2
    assert CliRunner().invoke(app, ["study", "export"]).exit_code == 2
