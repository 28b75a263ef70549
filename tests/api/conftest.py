"""The real application over a real database, called as a browser would call it."""

import json

import pytest
from fastapi.testclient import TestClient

from hourglass.api.app import create_app
from hourglass.api.settings import MIB, Settings
from hourglass.cli.revisions import WHICHEVER, name_revisions
from making import MEANINGS
from stages import computing

BASE = "http://127.0.0.1:8000"


@pytest.fixture(scope="module")
def client(database, tmp_path_factory):
    settings = Settings(
        database_url=database,
        var=tmp_path_factory.mktemp("var"),
        upload_limit_mb=1_000_000 / MIB,
        processes=0,
    )
    app = create_app(settings)
    with TestClient(app, base_url=BASE, raise_server_exceptions=False, headers=WHICHEVER) as client:
        name_revisions(client)
        yield client


@pytest.fixture
def runs(client, monkeypatch):
    """Have the numbers of a stage computed otherwise: ``runs(name, compute)``."""

    def otherwise(name, compute):
        results = client.app.state.hourglass.results
        monkeypatch.setattr(results, "stages", computing(results.stages, name, compute))

    return otherwise


class Api:
    """Short words for what the tests do over and over."""

    def __init__(self, client: TestClient) -> None:
        self.client = client

    def new(self, name="A study", **body):
        made = self.client.post("/api/studies", json=body or {"name": name})
        assert made.status_code == 201, made.text
        return made.json()["id"]

    def upload(self, study, text, name="rows.csv"):
        data = text.encode() if isinstance(text, str) else text
        return self.client.put(f"/api/studies/{study}/file", params={"name": name}, content=data)

    def followed(self, text, **follow_up):
        """A study of rows whose time is t and whose status is s."""
        made = self.new()
        assert self.upload(made, text).status_code == 204
        clock = {"kind": "duration", "column": "t"}
        meanings = {code: meaning.model_dump() for code, meaning in MEANINGS.items()}
        done = self.follow_up(made, clock=clock, outcome="s", meanings=meanings, **follow_up)
        assert done.status_code == 204
        return made

    def get(self, study, path):
        found = self.client.get(f"/api/studies/{study}/{path}")
        assert found.status_code == 200, found.text
        return found.json()

    def result(self, study, stage):
        reply = self.get(study, stage)
        while reply["work"]:
            reply = self.get(study, stage)
        assert reply["result"] is not None, reply
        return reply["result"]

    def report(self, study):
        """The words of the report, as JSON shows them."""
        return json.dumps(self.result(study, "report"), ensure_ascii=False)

    def part(self, study, part):
        reply = self.get(study, part)
        while reply["work"]:
            reply = self.get(study, part)
        return reply["result"]

    def prepare(self, study):
        reply = self.get(study, "prepare")["reply"]
        while reply["work"]:
            reply = self.get(study, "prepare")["reply"]
        return reply["result"]

    def put(self, study, **statement):
        done = self.client.put(f"/api/studies/{study}/statement", json=statement)
        assert done.status_code == 204, done.text

    def follow_up(self, study, **changes):
        statement = self.get(study, "prepare")["follow_up"]
        if statement["unit"] == "unstated":
            statement["unit"] = "months"
        statement |= changes
        return self.client.put(f"/api/studies/{study}/follow-up", json=statement)

    def lines(self, study):
        found = self.client.get(f"/api/studies/{study}").json()
        return {s["stage"]: (s["line"], s["state"], s["mark"]) for s in found["stages"]}

    def rename_column(self, study, column, into):
        step = {"kind": "rename_column", "column": column, "into": into}
        done = self.client.post(f"/api/studies/{study}/steps", json={"step": step})
        assert done.status_code == 201, done.text

    def decide(self, study, finding, choice, reason="", **more):
        body = {"finding": finding, "choice": choice, "reason": reason, **more}
        return self.client.post(f"/api/studies/{study}/findings", json=body)


@pytest.fixture(scope="module")
def api(client):
    return Api(client)


@pytest.fixture
def lamps(api):
    return api.new(demo="lamps")


@pytest.fixture
def larkmoor(api):
    return api.new(demo="larkmoor")
