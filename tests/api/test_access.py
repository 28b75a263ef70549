"""Only whoever has this start's token is let in."""

import pytest
from fastapi.testclient import TestClient

from hourglass.api.app import create_app
from hourglass.api.settings import Settings

TOKEN = "kept-by-one-account"
HERE = "http://127.0.0.1:8000"


@pytest.fixture(scope="module")
def outside(database, tmp_path_factory):
    var = tmp_path_factory.mktemp("var")
    app = create_app(Settings(database_url=database, var=var, processes=0, token=TOKEN))
    with TestClient(app, base_url=HERE, follow_redirects=False) as client:
        yield client


@pytest.fixture(autouse=True)
def no_cookie(outside):
    outside.cookies.clear()


def test_without_the_token_nothing_of_anybody_is_seen(outside):
    for path in (
        "/api/studies",
        "/api/openapi.json",
        "/api/docs",
        "/api/nowhere",
        "/",
        "/studies/x",
    ):
        assert outside.get(path).status_code == 401, path
    assert outside.post("/api/studies", json={"name": "x"}).status_code == 401
    assert "./hourglass start printed" in outside.get("/api/studies").json()["detail"]
    assert outside.get("/api/health").status_code == 200
    for wrong in ("", "é", TOKEN[:-1], TOKEN.upper()):
        assert outside.get("/", params={"token": wrong}).status_code == 401
        header = {"Authorization": f"Bearer {wrong}".encode()}
        assert outside.get("/api/studies", headers=header).status_code == 401


def test_the_printed_address_lets_in_once_and_is_not_seen_again(outside):
    welcome = outside.get("/studies/7", params={"token": TOKEN, "by": "arm"})
    assert (welcome.status_code, welcome.headers["location"]) == (303, "/studies/7?by=arm")
    cookie = welcome.headers["set-cookie"].lower()
    assert "httponly" in cookie
    assert "samesite=strict" in cookie
    assert cookie.startswith("hourglass-8000=")
    reply = outside.get("/api/studies")
    assert reply.status_code == 200
    assert reply.headers["cache-control"] == "no-store"
    elsewhere = outside.get(f"{HERE}//evil.example/x", params={"token": TOKEN})
    assert elsewhere.headers["location"] == "/evil.example/x"


def test_a_program_sends_the_token_itself(outside):
    header = {"Authorization": f"Bearer {TOKEN}"}
    assert outside.post("/api/studies", json={"name": "x"}, headers=header).status_code == 201
    assert outside.get("/api/studies", params={"token": TOKEN}).status_code == 401, (
        "never in a query"
    )


@pytest.mark.parametrize(
    ("site", "status"),
    [("same-origin", 200), ("none", 200), ("same-site", 403), ("cross-site", 403)],
)
def test_pages_of_other_servers_are_not_answered(outside, site, status):
    """A page of another port is of the same site, and browsers send it our cookie."""
    header = {"Authorization": f"Bearer {TOKEN}", "Sec-Fetch-Site": site}
    assert outside.get("/api/studies", headers=header).status_code == status
