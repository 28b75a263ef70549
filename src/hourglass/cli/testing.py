"""Running everything, on a throw-away database cluster."""

import os
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

from hourglass.cli.checks import run_checks
from hourglass.cli.cluster import Cluster
from hourglass.cli.machine import ROOT, build_web, chromium, postgres_binaries

TOGETHER = ["-n", "2", "--dist", "loadgroup", "-m", "not clocked"]
BY_THEMSELVES = ["-m", "clocked"]
"""A limit on the clock says something only when nothing else is keeping the machine busy."""


def run_tests(words: list[str]) -> int:
    """Checks first, then pytest with a cluster of its own; words are handed on to pytest."""
    browser = chromium()
    binaries = postgres_binaries()
    build_web()
    if not words and run_checks():
        return 1
    folder = Path(tempfile.mkdtemp(prefix="hourglass-test-"))
    folder.chmod(0o755)
    cluster = Cluster(folder / "postgres", binaries, durable=False)
    try:
        environment = {
            **os.environ,
            "HOURGLASS_TEST_DATABASE": cluster.start(),
            "HOURGLASS_TEST_BROWSER": browser,
        }
        pytest = [sys.executable, "-m", "pytest"]
        failed = 0
        for chosen in [words] if words else [TOGETHER, BY_THEMSELVES]:
            done = subprocess.run([*pytest, *chosen], cwd=ROOT, env=environment, check=False)
            failed = failed or done.returncode
        return failed
    finally:
        cluster.stop()
        shutil.rmtree(folder, ignore_errors=True)
