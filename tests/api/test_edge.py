"""The edge itself: health, hosts, origins, problems, limits."""

import json

import pytest
import structlog
from fastapi.testclient import TestClient

from hourglass import VERSION
from hourglass.api.app import create_app
from hourglass.api.settings import Settings
from hourglass.cli.client_types import DOCUMENT, drift, openapi_text
from hourglass.store.migrate import migrations

NOBODY = "00000000-0000-0000-0000-000000000000"


def test_health_shows_version_database_and_limits(client):
    assert client.get("/api/health").json() == {
        "version": VERSION,
        "database": "ready",
        "database_version": migrations()[-1][0],
        "upload_limit": 1_000_000,
    }


@pytest.mark.parametrize(
    "host", ["evil.example", "127.0.0.1.evil.example", "evil.example:8000", ""]
)
def test_strange_hosts_are_refused(client, host):
    refused = client.get("/api/health", headers={"host": host})
    assert refused.status_code == 421
    assert refused.headers["content-type"] == "application/problem+json"


@pytest.mark.parametrize("host", ["localhost:8000", "127.0.0.1", "localhost"])
def test_names_of_this_machine_are_answered(client, host):
    assert client.get("/api/health", headers={"host": host}).status_code == 200


@pytest.mark.parametrize(
    ("origin", "status"),
    [
        ("http://127.0.0.1:8000", 201),
        ("http://localhost:8000", 201),
        ("http://evil.example", 403),
        ("http://127.0.0.1:9000", 403),
        ("https://127.0.0.1:8000", 403),
        ("http://127.0.0.1", 403),
        ("http://[", 403),
        ("null", 403),
    ],
)
def test_changes_come_only_from_our_own_pages(client, origin, status):
    done = client.post("/api/studies", json={"name": "x"}, headers={"origin": origin})
    assert done.status_code == status


def test_head_is_answered_as_get_is_without_a_body(client):
    there, gone = client.head("/api/studies"), client.head("/api/nowhere")
    assert (there.status_code, gone.status_code) == (200, 404)
    assert there.content == gone.content == b""
    assert int(there.headers["content-length"]) == int(
        client.get("/api/studies").headers["content-length"]
    )


def test_a_fault_is_answered_and_goes_no_further(client, monkeypatch):
    """An error that reaches the server breaks the connection off."""
    state = client.app.state.hourglass
    monkeypatch.setattr(type(state.repository), "studies", lambda self: 1 / 0)
    with monkeypatch.context() as strict:
        strict.setattr(client._transport, "raise_server_exceptions", True)
        reply = client.get("/api/studies")
    assert reply.status_code == 500
    assert reply.json()["type"] == "urn:hourglass:unforeseen"
    assert reply.headers["x-request-id"] in reply.json()["detail"], "the log says more under it"


def test_a_study_whose_upload_was_undone_is_shown(api):
    study = api.new()
    api.upload(study, "t,s\n1,1\n2,0\n3,1\n")
    api.prepare(study)
    assert api.client.post(f"/api/studies/{study}/undo").status_code == 200
    assert api.lines(study)["prepare"][0] == "choose a file"


def test_reading_needs_no_origin(client):
    assert client.get("/api/studies", headers={"origin": "http://evil.example"}).status_code == 200


def test_every_request_is_logged_with_an_id_and_never_with_what_was_requested(client):
    with structlog.testing.capture_logs(
        processors=[structlog.contextvars.merge_contextvars]
    ) as seen:
        found = client.get(f"/api/studies/{NOBODY}/describe", params={"by": "a secret"})
    (line,) = [one for one in seen if one["event"] == "request"]
    assert line["request"] == found.headers["x-request-id"]
    assert (line["method"], line["status"]) == ("GET", 404)
    assert (line["study"], line["stage"]) == (NOBODY, "describe")
    assert line["ms"] > 0
    assert "secret" not in str(seen)


def test_pages_carry_a_strict_policy(client):
    headers = client.get("/api/health").headers
    assert "default-src 'self'" in headers["content-security-policy"]
    assert "unsafe-eval" not in headers["content-security-policy"]
    assert headers["x-content-type-options"] == "nosniff"


@pytest.mark.parametrize(
    ("method", "path", "body", "status", "words"),
    [
        ("GET", f"/api/studies/{NOBODY}", None, 404, "no such study"),
        ("GET", f"/api/studies/{NOBODY}/estimate", None, 404, "no such study"),
        ("DELETE", f"/api/studies/{NOBODY}", None, 404, "no such study"),
        ("PUT", f"/api/studies/{NOBODY}/file?name=x", "a\n1\n", 404, "no such study"),
        ("GET", "/api/studies/not-a-uuid", None, 422, "study_id"),
        ("POST", "/api/studies", {"name": "   "}, 422, "name"),
        ("POST", "/api/studies", {"name": "x" * 201}, 422, "name"),
        ("POST", "/api/studies", {}, 422, "name"),
        ("POST", "/api/studies", {"demo": "nonesuch"}, 404, "nonesuch"),
        ("POST", "/api/studies", {"name": "x", "extra": 1}, 422, "extra"),
        ("GET", "/api/nowhere", None, 404, "/api/nowhere"),
        ("PATCH", "/api/health", {}, 405, "Not Allowed"),
    ],
)
def test_every_refusal_is_a_problem_in_words(client, method, path, body, status, words):
    content = body if isinstance(body, str) else json.dumps(body) if body is not None else None
    headers = {"content-type": "application/json"} if not isinstance(body, str) else {}
    found = client.request(method, path, content=content, headers=headers)
    assert found.status_code == status
    assert found.headers["content-type"] == "application/problem+json"
    problem = found.json()
    assert set(problem) == {"type", "title", "status", "detail", "place"}
    assert problem["status"] == status
    assert words in problem["detail"]
    assert "Traceback" not in found.text


def test_a_database_that_is_away_is_stated_and_health_still_answers(tmp_path):
    away = Settings(database_url="postgresql://nobody@127.0.0.1:1/none", var=tmp_path, processes=0)
    with TestClient(create_app(away), base_url="http://127.0.0.1:8000") as client:
        assert client.get("/api/health").json()["database"] == "away"
        found = client.get("/api/studies")
        assert found.status_code == 503
        assert "What was saved before is safe" in found.json()["detail"]


def test_a_client_that_is_not_built_is_stated(database, tmp_path):
    settings = Settings(database_url=database, var=tmp_path, web=tmp_path / "nowhere", processes=0)
    with TestClient(create_app(settings), base_url="http://127.0.0.1:8000") as client:
        assert client.get("/").status_code == 503


def test_every_address_of_the_client_gives_its_page(client):
    for path in ("/", "/studies/x/compare", "/anything"):
        page = client.get(path)
        assert page.status_code == 200
        assert '<div id="root">' in page.text
    assert client.get("/assets/../../pyproject.toml").text.startswith("<!doctype html>")


def test_the_limit_is_set_from_outside(monkeypatch, tmp_path):
    monkeypatch.setenv("HOURGLASS_UPLOAD_LIMIT_MB", "3")
    assert Settings(database_url="", var=tmp_path).upload_limit == 3 * 1024 * 1024


def test_drift_between_server_and_client_is_noticed(monkeypatch, tmp_path):
    changed = tmp_path / "openapi.json"
    changed.write_text(openapi_text().replace("Olden", "Elder"))
    monkeypatch.setattr("hourglass.cli.client_types.DOCUMENT", changed)
    found = drift()
    assert "./hourglass client" in found
    assert DOCUMENT.name in found
