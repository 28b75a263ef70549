"""What the edge bears: bodies that are large or slow, callers that are many or send nothing."""

import socket
import threading
import time
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress

import httpx
import pytest
import uvicorn
from psycopg_pool import PoolTimeout

from hourglass.api import bodies, connections
from hourglass.api.app import create_app
from hourglass.api.connections import server_options
from hourglass.api.settings import Settings


@pytest.fixture(scope="module")
def port(database, tmp_path_factory):
    """A real server, on a port of its own."""
    with socket.socket() as door:
        door.bind(("127.0.0.1", 0))
        here = door.getsockname()[1]
        var = tmp_path_factory.mktemp("var")
        app = create_app(Settings(database_url=database, var=var, processes=0, PORT=here))
        server = uvicorn.Server(uvicorn.Config(app, **server_options()))
        thread = threading.Thread(target=server.run, kwargs={"sockets": [door]}, daemon=True)
        thread.start()
        while not server.started:
            time.sleep(0.05)
        yield here
        server.should_exit = True
        thread.join(10)


def rest_of(connection, seconds=10):
    """What is still sent on a connection until it is closed."""
    connection.settimeout(seconds)
    found = b""
    while piece := connection.recv(4096):
        found += piece
    return found


def post(client, path, size, field="name"):
    return client.post(path, content=b'{"%s": "%s"}' % (field.encode(), b"x" * size))


def test_a_body_that_is_too_large_is_refused_before_it_is_parsed(client, api):
    study = api.new()
    assert (
        post(client, "/api/studies", 2**20)
        .json()["detail"]
        .startswith("A request of this kind holds")
    )
    assert post(client, "/api/studies", 2**19).status_code == 422
    in_pieces = client.post("/api/studies", content=iter([b" " * 2**19] * 3))
    assert in_pieces.status_code == 413
    assert post(client, f"/api/studies/{study}/plan-fit", 2**22).status_code == 422
    assert post(client, f"/api/studies/{study}/plan-fit", 5 * 2**20).status_code == 413


def test_a_body_that_does_not_come_is_broken_off(port, monkeypatch):
    monkeypatch.setattr(bodies, "PAUSE", 0.3)
    with socket.create_connection(("127.0.0.1", port)) as slow:
        slow.sendall(
            b"POST /api/studies HTTP/1.1\r\nHost: 127.0.0.1:%d\r\nContent-Type: application/json\r\n"
            b"Connection: close\r\nContent-Length: 50\r\n\r\n{" % port
        )
        assert rest_of(slow).startswith(b"HTTP/1.1 408")
    with socket.create_connection(("127.0.0.1", port)) as slow:
        slow.sendall(
            b"POST /api/studies HTTP/1.1\r\nHost: 127.0.0.1:%d\r\nContent-Type: application/json\r\n"
            b"Connection: close\r\nContent-Length: 50\r\n\r\n{" % port
        )
        for _ in range(6):  # never a long pause, and never done
            time.sleep(0.1)
            with suppress(BrokenPipeError, ConnectionResetError):
                slow.sendall(b" ")
        assert rest_of(slow).startswith(b"HTTP/1.1 408")


def test_headers_that_do_not_end_are_waited_for_a_while(port, monkeypatch):
    monkeypatch.setattr(connections, "FOR_THE_HEADERS", 0.3)
    for begun in (b"", b"GET /api/health HTTP/1.1\r\nHost: 127"):
        with socket.create_connection(("127.0.0.1", port)) as slow:
            slow.sendall(begun)
            assert rest_of(slow) == b""
    with httpx.Client(base_url=f"http://127.0.0.1:{port}") as client:
        for _ in range(3):  # one connection lives on
            assert client.get("/api/health").status_code == 200
            time.sleep(0.2)


def test_an_address_holds_so_many_connections(port, monkeypatch):
    monkeypatch.setattr(connections, "MAX_OF_AN_ADDRESS", 5)
    held = [socket.create_connection(("127.0.0.1", port)) for _ in range(9)]
    closed = 0
    for one in held:
        one.settimeout(1)
        with suppress(TimeoutError):
            closed += one.recv(1) == b""
    for one in held:
        one.close()
    assert closed == 4
    time.sleep(0.2)
    assert httpx.get(f"http://127.0.0.1:{port}/api/health").status_code == 200


def test_fifty_demos_at_once_are_all_made(port):
    def make(k):
        body = {"demo": ("larkmoor", "lamps")[k % 2]}
        return httpx.post(
            f"http://127.0.0.1:{port}/api/studies", json=body, timeout=120
        ).status_code

    with ThreadPoolExecutor(50) as threads:
        assert set(threads.map(make, range(50))) == {201}


def test_busy_is_another_thing_than_no_answer(client, monkeypatch):
    def busy(self):
        raise PoolTimeout("all are in use")

    monkeypatch.setattr(type(client.app.state.hourglass), "_connection", busy)
    refused = client.get("/api/studies")
    assert (refused.status_code, refused.headers["retry-after"]) == (503, "2")
    assert refused.json()["type"] == "urn:hourglass:busy"
