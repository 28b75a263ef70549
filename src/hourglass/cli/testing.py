"""Running everything, on a throw-away database cluster."""

import os
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

from hourglass.cli.checks import run_checks
from hourglass.cli.cluster import Cluster
from hourglass.cli.machine import (
    ROOT,
    announce,
    build_web,
    chromium,
    install_page_libraries,
    postgres_binaries,
)
from hourglass.cli.outcomes import Outcome, outcome_of, summary

EVERYTHING = ["-n", "2", "--dist", "loadgroup", "--durations=30"]


PROPERTIES = [f"tests/{area}" for area in ("core", "cohort", "analysis", "report", "store", "api")]


def try_properties() -> int:
    """Run the tests that draw their inputs, with many of them."""
    os.environ["HOURGLASS_MANY_EXAMPLES"] = "1"
    return run_tests([*EVERYTHING, *PROPERTIES])


def run_tests(words: list[str]) -> int:
    """Checks, then pytest with a cluster of its own, each to its end; then what came of all.

    Args:
        words: handed on to pytest; without any, the checks are run too.
    """
    browser = chromium()
    binaries = postgres_binaries()
    build_web()
    install_page_libraries()
    folder = Path(tempfile.mkdtemp(prefix="hourglass-test-"))
    folder.chmod(0o755)
    cluster = Cluster(folder / "postgres", binaries, durable=False)
    outcomes: list[Outcome] = []
    try:
        if not words:
            outcomes += run_checks(folder)
        outcomes.append(_pytest(words or EVERYTHING, cluster.start(), browser, folder))
    finally:
        cluster.stop()
        shutil.rmtree(folder, ignore_errors=True)
    announce(summary(outcomes))
    return 1 if any(not outcome.passed for outcome in outcomes) else 0


def _pytest(words: list[str], database: str, browser: str, folder: Path) -> Outcome:
    environment = {
        **os.environ,
        "HOURGLASS_TEST_DATABASE": database,
        "HOURGLASS_TEST_BROWSER": browser,
    }
    xml = folder / "pytest.xml"
    command = [sys.executable, "-m", "pytest", f"--junitxml={xml}", *words]
    done = subprocess.run(command, cwd=ROOT, env=environment, check=False)
    return outcome_of("tests of Python", xml, done.returncode)
