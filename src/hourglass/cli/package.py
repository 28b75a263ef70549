"""Making the package: a wheel with the client, the demo studies and all else in it."""

import subprocess
import sys
import tempfile
from pathlib import Path

from hourglass.cli.machine import ROOT, build_web


def build_wheel(out: Path) -> Path:
    """Build the wheel of this checkout into a folder; gives its file."""
    build_web()
    out.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=out) as folder:
        command = [sys.executable, "-m", "pip", "wheel", "--quiet", "--no-deps"]
        command += ["--no-build-isolation", "--wheel-dir", folder, str(ROOT)]
        subprocess.run(command, check=True)
        (made,) = Path(folder).glob("*.whl")
        return made.rename(out / made.name)
