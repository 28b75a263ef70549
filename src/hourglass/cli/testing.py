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
        command = [sys.executable, "-m", "pytest", *(words or ["-n", "2", "--dist", "loadgroup"])]
        return subprocess.run(command, cwd=ROOT, env=environment, check=False).returncode
    finally:
        cluster.stop()
        shutil.rmtree(folder, ignore_errors=True)
