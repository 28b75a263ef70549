"""Formatters, linters and type checks of both languages, and the client's own unit tests."""

import subprocess
import sys

from hourglass.cli.client_types import drift
from hourglass.cli.machine import ROOT, WEB, npm_packages, say


def run_checks() -> int:
    """Run all checks, each to its end; returns 1 if any found something."""
    environment = npm_packages()
    python = [sys.executable, "-m"]
    code = ["src", "tests", "demo"]
    failed = []
    for name, command, folder in [
        ("format of Python", [*python, "ruff", "format", "--check", "-q", *code], ROOT),
        ("lint of Python", [*python, "ruff", "check", "-q", *code], ROOT),
        ("types of Python", [*python, "mypy", "--no-error-summary"], ROOT),
        ("format and lint of TypeScript", ["npm", "run", "--silent", "lint"], WEB),
        ("types of TypeScript", ["npm", "run", "--silent", "types"], WEB),
        ("unit tests of TypeScript", ["npm", "run", "--silent", "test"], WEB),
    ]:
        if subprocess.run(command, cwd=folder, env=environment, check=False).returncode:
            failed.append(name)
    difference = drift()
    if difference:
        say(difference)
        failed.append("client types")
    for name in failed:
        say(f"Found something: {name}.")
    if not failed:
        say("Formats, lints, types and client types are in order.")
    return 1 if failed else 0
