"""The program's own database cluster, and what it does where it is not welcome."""

import os
import shutil
import tempfile
from pathlib import Path

import psycopg
import pytest

from hourglass.cli import machine
from hourglass.cli.cluster import Cluster, own_cluster
from hourglass.cli.machine import MissingPieceError, postgres_binaries
from hourglass.study.place import INTERFACE, INTERFACE_FILES

pytestmark = pytest.mark.timeout(120)


@pytest.fixture
def folder():
    made = Path(tempfile.mkdtemp(prefix="hourglass-cluster-"))
    made.chmod(0o755)
    yield made
    shutil.rmtree(made, ignore_errors=True)


def test_a_cluster_is_made_once_and_keeps_what_was_put_in(folder):
    cluster = Cluster(folder / "postgres", postgres_binaries(), durable=False)
    try:
        address = cluster.start()
        with psycopg.connect(address, autocommit=True) as connection:
            connection.execute("create table kept (a int)")
            listening = connection.execute("show listen_addresses").fetchone()
        assert listening == ("127.0.0.1",)
        assert cluster.start() == address, "a running cluster is used as it is"
        cluster.stop()
        assert not cluster.running()
        with psycopg.connect(cluster.start()) as connection:
            assert connection.execute("select count(*) from kept").fetchone() == (0,)
    finally:
        cluster.stop()


def test_only_those_with_the_password_get_in(folder):
    cluster = Cluster(folder / "postgres", postgres_binaries(), durable=False)
    try:
        address = cluster.start()
        password = (folder / "postgres" / "password").read_text()
        assert (folder / "postgres" / "password").stat().st_mode & 0o077 == 0
        with pytest.raises(psycopg.OperationalError, match="password"):
            psycopg.connect(address.replace(password, "guess"))
    finally:
        cluster.stop()


def test_a_creation_broken_off_is_begun_again(folder):
    half_made = folder / "postgres" / "data.new"
    half_made.mkdir(parents=True)
    (half_made / "PG_VERSION").write_text("15")
    cluster = Cluster(folder / "postgres", postgres_binaries(), durable=False)
    try:
        with psycopg.connect(cluster.start()) as connection:
            assert connection.execute("select 1").fetchone() == (1,)
    finally:
        cluster.stop()


@pytest.mark.skipif(os.geteuid() != 0, reason="only root has to step aside for PostgreSQL")
def test_a_folder_closed_to_postgresql_sends_the_cluster_elsewhere(folder):
    open_cluster = own_cluster(folder)
    assert open_cluster.folder == folder / "postgres"
    folder.chmod(0o700)
    closed = own_cluster(folder)
    assert closed.folder.parent == Path("/var/lib")
    assert own_cluster(folder).folder == closed.folder, "and always to the same place"


def test_a_machine_without_apt_is_shown_what_to_install(monkeypatch):
    monkeypatch.setattr(machine.shutil, "which", lambda name: None)
    with pytest.raises(MissingPieceError, match="apt-get install chromium"):
        machine.install_debian("chromium")


def test_an_old_node_is_not_taken_for_a_new_one(tmp_path):
    for version, new in (("v18.19.0", False), ("v20.0.0", True), ("v24.1.0", True), ("?", False)):
        for name in ("node", "npm"):
            (tmp_path / name).write_text(f"#!/bin/sh\necho {version}\n")
            (tmp_path / name).chmod(0o755)
        assert machine._node_is_new({"PATH": f"{tmp_path}:/usr/bin:/bin"}) == new


def test_the_client_is_built_anew_only_when_its_sources_change(monkeypatch, tmp_path):
    web = tmp_path / "web"
    (web / "src" / "api").mkdir(parents=True)
    for name in ("package-lock.json", "index.html", "vite.config.ts", "src/main.tsx"):
        (web / name).write_text(name)
    scripts = web / "node_modules" / "swagger-ui-dist"
    scripts.mkdir(parents=True)
    for name in INTERFACE_FILES:
        (scripts / name).write_text(name)
    built = []

    def build(command, **_):
        # The types of the API are made by the build, beside the sources.
        (web / "src" / "api" / "schema.d.ts").write_text("made")
        served = web / "dist" / "index.html"
        built.append(served.read_text() if served.exists() else "nothing")
        new = web / command[command.index("--outDir") + 1]
        new.mkdir()
        (new / "index.html").write_text(f"build {len(built)}")

    monkeypatch.setattr(machine, "WEB", web)
    monkeypatch.setattr(machine, "npm_packages", lambda: dict(os.environ))
    monkeypatch.setattr(machine.subprocess, "run", build)
    machine.build_web()
    machine.build_web()
    assert built == ["nothing"]
    (web / "src" / "main.tsx").write_text("changed")
    machine.build_web()
    assert built == ["nothing", "build 1"]  # served until the new one is there
    assert (web / "dist" / "index.html").read_text() == "build 2"
    assert {file.name for file in (web / "dist" / INTERFACE).iterdir()} == {*INTERFACE_FILES}
    assert sorted(p.name for p in web.glob("dist*")) == ["dist"]
