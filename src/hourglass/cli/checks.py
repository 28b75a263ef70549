"""Formatters, linters and type checks of both languages, and the client's own unit tests."""

import subprocess
import sys
from pathlib import Path

from hourglass.cli.client_types import drift
from hourglass.cli.machine import ROOT, WEB, announce, npm_packages
from hourglass.cli.outcomes import Outcome, outcome_of


def run_checks(folder: Path) -> list[Outcome]:
    """Run all checks, each to its end.

    Args:
        folder: where the client's unit tests write their results.
    """
    environment = npm_packages()
    python = [sys.executable, "-m"]
    code = ["src", "tests", "bench", "demo"]
    xml = folder / "vitest.xml"
    unit_tests = ["npm", "run", "--silent", "test", "--", "--reporter=junit", f"--outputFile={xml}"]
    found = []
    for name, command, where in [
        ("format of Python", [*python, "ruff", "format", "--check", "-q", *code], ROOT),
        ("lint of Python", [*python, "ruff", "check", "-q", *code], ROOT),
        ("types of Python", [*python, "mypy", "--no-error-summary"], ROOT),
        ("format and lint of TypeScript", ["npm", "run", "--silent", "lint"], WEB),
        ("types of TypeScript", ["npm", "run", "--silent", "types"], WEB),
        ("unit tests of TypeScript", unit_tests, WEB),
    ]:
        done = subprocess.run(command, cwd=where, env=environment, check=False)
        file = xml if command is unit_tests else folder / "none"
        found.append(outcome_of(name, file, done.returncode))
    difference = drift()
    if difference:
        announce(difference)
    return [*found, Outcome("client types", passed=difference is None)]
