"""./hourglass start for real: its own database, kills at any moment, and starting again."""

import json
import os
import re
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from typing import ClassVar

import httpx
import pytest

from hourglass.cli.cluster import Cluster
from hourglass.cli.machine import ROOT, postgres_binaries

pytestmark = [pytest.mark.timeout(400), pytest.mark.xdist_group("start")]
A_LONG_WAIT = 120
"""Seconds after which a program does not end at all; a busy machine takes many to load it."""


class Program:
    """The program, started as a user starts it."""

    running: ClassVar[list[subprocess.Popen]] = []
    latest: ClassVar["Program | None"] = None

    def __init__(self, var: Path, **more: str) -> None:
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        environment = {k: v for k, v in os.environ.items() if k != "DATABASE_URL"}
        environment |= {"HOURGLASS_VAR": str(var), "PORT": str(self.port), **more}
        environment["PYTHONPATH"] = str(ROOT / "src")
        self.process = subprocess.Popen(
            [sys.executable, "-m", "hourglass.cli", "start"],
            env=environment,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
        )
        self.output, self.var = "", var
        Program.running.append(self.process)

    @classmethod
    def end_all(cls) -> None:
        """Nothing is left behind, whatever has failed."""
        while cls.running:
            process = cls.running.pop()
            if process.poll() is None:
                process.kill()
            process.communicate()

    def ready(self) -> "Program":
        for line in self.process.stdout:
            self.output += line
            if "is ready at" in line:
                Program.latest = self
                return self
        raise AssertionError(self.output)

    def end(self, how: int) -> int:
        self.process.send_signal(how)
        rest, _ = self.process.communicate(timeout=A_LONG_WAIT)
        self.output += rest
        return self.process.returncode

    def call(self, method: str, path: str, **more):
        server = f"http://127.0.0.1:{self.port}"
        study = re.match(r"/api/studies/[^/?]+", path)
        headers = {"Authorization": f"Bearer {(self.var / 'token').read_text()}"}
        if study and method != "GET":
            seen = httpx.get(server + study[0], timeout=20, headers=headers)
            headers["If-Match"] = seen.headers["etag"]
        return httpx.request(method, server + path, timeout=20, headers=headers, **more)

    def studies(self) -> dict[str, str]:
        return {s["name"]: s["id"] for s in self.call("GET", "/api/studies").json()["studies"]}


@pytest.fixture(scope="module")
def var():
    folder = Path(tempfile.mkdtemp(prefix="hourglass-start-"))
    folder.chmod(0o755)
    yield folder
    Program.end_all()
    Cluster(folder / "postgres", postgres_binaries()).stop()
    shutil.rmtree(folder, ignore_errors=True)


@pytest.fixture
def program(var):
    """The program as the test before left it, or started again where that ended it."""
    last = Program.latest
    if last and last.var == var and last.process.poll() is None:
        return last
    Program.end_all()
    return Program(var).ready()


def test_start_serves_the_demos_and_stops_what_it_started(var, program):
    assert "Loaded the demo study “Larkmoor corneal grafts”." in program.output
    assert program.call("GET", "/api/health").json()["database"] == "ready"
    assert "Olden Hourglass" in program.call("GET", "/").text
    assert len(program.studies()) == 3
    lines = (var / "log" / "hourglass.jsonl").read_text().splitlines()
    logged = [json.loads(line) for line in lines]
    assert [line["status"] for line in logged if line["event"] == "request"][-1] == 200
    assert all(line["request"] for line in logged if line["event"] == "request")
    refused = Program(var)
    out, _ = refused.process.communicate(timeout=A_LONG_WAIT)
    assert refused.process.returncode == 2
    assert "already running" in out
    assert program.end(signal.SIGINT) == 0
    assert not Cluster(var / "postgres", postgres_binaries()).running()


def test_a_second_start_prepares_nothing_again(program):
    words = "Preparing|Installing|Building|Creating|Loaded"
    assert not re.search(words, program.output), program.output


def test_starting_again_keeps_the_users_work(var, program):
    lamps = program.studies()["Harbour lamps"]
    program.call("PATCH", f"/api/studies/{lamps}", json={"name": "My lamps"})
    larkmoor = program.studies()["Larkmoor corneal grafts"]
    program.call("DELETE", f"/api/studies/{larkmoor}")
    assert program.end(signal.SIGTERM) == 0
    assert not Cluster(var / "postgres", postgres_binaries()).running()
    again = Program(var).ready()
    assert set(again.studies()) == {"My lamps", "Larkmoor corneal grafts, as received"}


def test_a_killed_server_loses_nothing_that_was_confirmed(var, program):
    made = program.call("POST", "/api/studies", json={"name": "Confirmed"}).json()["id"]
    sent = program.call("PUT", f"/api/studies/{made}/file?name=x.csv", content=b"t,s\n1,1\n2,0\n")
    assert sent.status_code == 204
    half = program.call("POST", "/api/studies", json={"name": "Half made"}).json()["id"]
    with socket.create_connection(("127.0.0.1", program.port)) as uploading:
        head = f"PUT /api/studies/{half}/file?name=y.csv HTTP/1.1\r\nHost: 127.0.0.1:{program.port}\r\n"
        uploading.sendall(f"{head}Content-Length: 5000\r\n\r\nt,s\n1,1\n".encode())
        time.sleep(0.3)
        program.end(signal.SIGKILL)
    again = Program(var).ready()
    assert again.call("GET", f"/api/studies/{made}").json()["file"]["rows"] == 2
    assert again.call("GET", f"/api/studies/{half}").json()["file"] is None


def test_a_killed_database_comes_back_by_itself(var, program):
    made = program.call("POST", "/api/studies", json={"name": "Before the kill"}).json()["id"]
    postmaster = int((var / "postgres/data/postmaster.pid").read_text().splitlines()[0])
    os.kill(postmaster, signal.SIGKILL)
    seen = set()
    for _ in range(100):
        found = program.call("GET", f"/api/studies/{made}")
        seen.add(found.status_code)
        if found.status_code == 200 and len(seen) > 1:
            break
        if found.status_code != 200:
            assert found.status_code == 503
            assert "was saved before is safe" in found.json()["detail"]
        time.sleep(0.2)
    assert program.call("GET", f"/api/studies/{made}").status_code == 200
    program.end(signal.SIGINT)
    assert "starting it again" in program.output


def test_a_server_one_already_has_is_used_and_left_running(var):
    address = os.environ["HOURGLASS_TEST_DATABASE"]
    elsewhere = Path(tempfile.mkdtemp(prefix="hourglass-other-"))
    other = Program(elsewhere, DATABASE_URL=address).ready()
    assert len(other.studies()) == 3
    assert not (elsewhere / "postgres").exists()
    other.end(signal.SIGINT)
    shutil.rmtree(elsewhere)


@pytest.mark.parametrize(
    ("given", "words"),
    [
        ({"PORT": "abc"}, "PORT is “abc”: give a whole number from 0 to 65535"),
        ({"PORT": "70000"}, "PORT is “70000”: give a whole number from 0 to 65535"),
        ({"PORT": ""}, "PORT is “”: give a whole number"),
        ({"HOURGLASS_PROCESSES": "many"}, "HOURGLASS_PROCESSES is “many”: give a whole number"),
        ({"HOURGLASS_UPLOAD_LIMIT_MB": "nan"}, "HOURGLASS_UPLOAD_LIMIT_MB is “nan”: give a number"),
        ({"HOURGLASS_TOKEN": "a b"}, "HOURGLASS_TOKEN is “a b”: give letters"),
        ({"DATABASE_URL": "nonsense"}, "DATABASE_URL is no address of a database"),
        ({"DATABASE_URL": "postgresql://127.0.0.1:1/x"}, "The database does not answer"),
        ({"HOURGLASS_VAR": "/proc/none"}, "Nothing can be kept in /proc/none"),
        ({"HOURGLASS_VAR": __file__}, "Nothing can be kept in"),
    ],
)  # fmt: skip
def test_what_cannot_be_used_is_a_sentence(var, given, words):
    program = Program(var, **given)
    out, _ = program.process.communicate(timeout=A_LONG_WAIT)
    assert program.process.returncode == 2, out
    assert words in out
    assert "Traceback" not in out


def test_port_0_takes_one_that_is_free_and_prints_it(var):
    program = Program(var, PORT="0").ready()
    program.port = int(re.search(r"127\.0\.0\.1:(\d+)", program.output)[1])
    assert program.port > 0
    assert program.call("POST", "/api/studies", json={"name": "x"}).status_code == 201
    modes = [(var / name).stat().st_mode & 0o077 for name in ("log", "files", "postgres")]
    assert modes == [0, 0, 0]
    assert (var / "token").stat().st_mode & 0o777 == 0o600
    assert f"127.0.0.1:{program.port}/?token={(var / 'token').read_text()} " in program.output
    assert httpx.get(f"http://127.0.0.1:{program.port}/api/studies").status_code == 401
    program.end(signal.SIGINT)
    assert (var / "token").read_text() not in (var / "log" / "hourglass.jsonl").read_text()


def test_a_taken_port_is_stated(var):
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        program = Program(var, PORT=str(taken.getsockname()[1]))
        out, _ = program.process.communicate(timeout=A_LONG_WAIT)
    assert program.process.returncode == 2
    assert "is taken" in out


def test_help_names_every_command():
    done = subprocess.run([ROOT / "hourglass", "help"], capture_output=True, text=True, check=True)
    for command in ("start", "test", "bench", "check", "help"):
        assert re.search(rf"\b{command}\b", done.stdout)


def test_bench_measures_against_the_floor_of_the_same_run():
    done = subprocess.run(
        [ROOT / "hourglass", "bench", "--rows", "2000"], capture_output=True, text=True, check=True
    )
    kinds = ("distinct times", "heavy ties", "late entry", "counts", "10 strata")
    assert all(f"\n{kind}\n" in done.stdout for kind in kinds)
    assert done.stdout.count("Newton step, 10 columns") == len(kinds)
    assert done.stdout.count("× one bare reader") == 4


@pytest.mark.skipif("PYTEST_XDIST_WORKER" not in os.environ, reason="one process has them all")
def test_the_tests_of_a_group_stay_in_one_process(request):
    """Where they do not, every process starts programs and browsers of its own, all at once."""
    assert request.node.nodeid.endswith("@start")
