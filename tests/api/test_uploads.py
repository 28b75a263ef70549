"""Files over HTTP: every kind taken, bad ones refused as problems, hanging up leaves nothing."""

import json
import random
import re
import socket
import threading
import time

import pytest
import uvicorn
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from examples import examples
from hourglass.api.app import create_app
from hourglass.api.routes import files
from hourglass.api.settings import Settings
from hourglass.study.place import DEMO

IMPORTS = sorted((DEMO / "imports").iterdir())


@pytest.mark.parametrize("path", IMPORTS, ids=[p.name for p in IMPORTS])
def test_every_kind_of_file_is_taken_and_prepared(api, path):
    study = api.new(path.name)
    data = path.read_bytes()
    assert api.upload(study, data, path.name).status_code == 204
    found = api.prepare(study)
    assert found["columns"]
    assert found["ledger"]["read"] == api.client.get(f"/api/studies/{study}").json()["file"]["rows"]
    shown = api.get(study, "file/reading")["reading"]
    assert shown["page"]["rows"]
    assert shown["evidence"], "what speaks for the way it is read"
    for guess in found["layouts"]:
        made = api.new("once more")
        api.upload(made, data, path.name)
        body = {"layout": guess["layout"]}
        done = api.client.post(f"/api/studies/{made}/layout", json=body)
        assert done.status_code == 201, done.text
        after = api.prepare(made)
        assert [s["broken"] for s in after["steps"] if s["broken"]] == []


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"PK\x03\x04nothing", "workbook or archive cannot be opened"),
        (b"PAR1nothing", "Parquet file cannot be read"),
        (b"[1, 2", "breaks off"),
        (b"\x1f\x8bzip", "gzip file"),
        (b"[" * 10_000, "nested"),
    ],
)
def test_a_bad_file_is_a_problem_in_words(api, data, words):
    study = api.new()
    refused = api.upload(study, data, "bad.bin")
    assert refused.status_code == 422
    assert refused.headers["content-type"].startswith("application/problem+json")
    assert words in refused.json()["detail"]
    assert api.client.get(f"/api/studies/{study}").json()["file"] is None


def test_limits_come_from_the_environment(monkeypatch, tmp_path):
    for name, value in (
        ("HOURGLASS_UPLOAD_LIMIT_MB", "3"),
        ("HOURGLASS_MOST_CELLS", "77"),
        ("HOURGLASS_MOST_COLUMNS", "5"),
        ("HOURGLASS_UNPACKED_LIMIT_MB", "9"),
        ("HOURGLASS_READING_MEMORY_MB", "700"),
        ("HOURGLASS_READING_SECONDS", "20"),
    ):
        monkeypatch.setenv(name, value)
    found = Settings(database_url="postgresql://nowhere", var=tmp_path)
    assert found.upload_limit == 3 * 2**20
    assert (found.limits.most_cells, found.limits.most_columns) == (77, 5)
    assert found.limits.most_unpacked == 9 * 2**20
    assert (found.reading_memory, found.reading_seconds) == (700 * 2**20, 20)


def test_a_caller_who_hangs_up_while_the_rows_are_read_leaves_no_file(
    database, tmp_path, monkeypatch
):
    begun, stopped = threading.Event(), threading.Event()
    real = files.kept_file

    def slow(*given):
        begun.set()
        made = real(*given)
        stopped.wait(5)
        return made

    monkeypatch.setattr(files, "kept_file", slow)
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    app = create_app(Settings(database_url=database, var=tmp_path / "var", port=port, processes=0))
    server = uvicorn.Server(uvicorn.Config(app, port=port, log_level="error"))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.02)
    host = f"127.0.0.1:{port}"

    def call(text):
        with socket.create_connection(("127.0.0.1", port)) as line:
            line.sendall(text.encode())
            return b"".join(iter(lambda: line.recv(65_536), b"")).decode()

    body = '{"name": "Left"}'
    head = f"Host: {host}\r\nConnection: close\r\nContent-Type: application/json\r\n"
    made = call(f"POST /api/studies HTTP/1.1\r\n{head}Content-Length: {len(body)}\r\n\r\n{body}")
    study = json.loads(made[made.index("{") :])["id"]
    seen = call(f"GET /api/studies/{study} HTTP/1.1\r\nHost: {host}\r\nConnection: close\r\n\r\n")
    (revision,) = re.findall(r'(?i)^etag: ("\d+")', seen, re.MULTILINE)
    data = "t,s\n1,1\n"
    with socket.create_connection(("127.0.0.1", port)) as leaving:
        leaving.sendall(
            f"PUT /api/studies/{study}/file?name=x.csv HTTP/1.1\r\nHost: {host}\r\n"
            f"If-Match: {revision}\r\n"
            f"Content-Length: {len(data)}\r\n\r\n{data}".encode()
        )
        assert begun.wait(5)
    time.sleep(0.5)  # the server looks every tenth of a second whether anybody still listens
    stopped.set()
    time.sleep(0.3)
    found = call(f"GET /api/studies/{study} HTTP/1.1\r\nHost: {host}\r\nConnection: close\r\n\r\n")
    assert '"file":null' in found
    server.should_exit = True
    thread.join(10)


@pytest.fixture(scope="module")
def study(api):
    rng = random.Random(5)
    lines = [
        f"{k},{rng.randint(1, 30)},{rng.randint(0, 1)},{rng.choice('ab')}\n" for k in range(30)
    ]
    return api.followed("id,t,s,g\n" + "".join(lines))


json_values = st.recursive(
    st.one_of(st.none(), st.booleans(), st.integers(-5, 99), st.floats(), st.text(max_size=6)),
    lambda inner: st.one_of(
        st.lists(inner, max_size=3), st.dictionaries(st.text(max_size=5), inner, max_size=3)
    ),
    max_leaves=6,
)
FIELDS = ["column", "rows", "why", "condition", "key", "points", "by", "into", "formula", "name"]
bodies = st.one_of(
    json_values,
    st.builds(
        lambda kind, more: {"step": {"kind": kind, **more}, "reason": ""},
        st.sampled_from(
            ["set_aside", "split_number", "new_column", "set_aside_where", "transform"]
        ),
        st.dictionaries(st.sampled_from(FIELDS), json_values, max_size=4),
    ),
)


@settings(
    max_examples=examples(80),
    deadline=None,
    suppress_health_check=[HealthCheck.function_scoped_fixture],
)
@given(
    bodies,
    st.sampled_from(
        [
            *(("POST", name) for name in ("steps", "steps/preview", "layout", "findings")),
            *(("POST", name) for name in ("file/reading", "plan-fit")),
            *(("PUT", name) for name in ("steps.json", "plan-in-place")),
        ]
    ),
)
def test_whatever_is_sent_is_answered_or_refused_in_words(api, study, body, where):
    method, path = where
    sent = api.client.request(
        method,
        f"/api/studies/{study}/{path}",
        content=json.dumps(body),
        headers={"content-type": "application/json"},
    )
    assert sent.status_code in (200, 201, 409, 422), sent.text
    if sent.status_code > 400:
        assert sent.json()["detail"]
