"""An example of a program that uses Olden Hourglass: a plan and a file go in, a report comes out.

    python3 docs/client.py "http://127.0.0.1:8000/?token=…" PLAN.json DATA.csv report.pdf

The address is the one that ./hourglass start prints. It needs nothing but Python. Every address is described
at /api/docs of a server that runs.
"""

import json
import os
import sys
import time
import urllib.error
import urllib.parse
import urllib.request
from pathlib import Path


def token_of_this_account():
    """The token of the program that runs, which it keeps in its folder of data."""
    var = Path(os.environ.get("HOURGLASS_VAR", Path(__file__).parents[1] / "var"))
    file = var / "token"
    return file.read_text().strip() if file.exists() else ""


class Client:
    """Calls a server, and says in its own words why it refuses."""

    def __init__(self, address):
        page, _, query = address.partition("?")
        self.address = page.rstrip("/")
        self.token = urllib.parse.parse_qs(query).get("token", [""])[0] or token_of_this_account()
        self.seen = {}  # the revision of each study, as the server gave it last

    def call(self, method, path, body=None):
        """The bytes that answer a call; a change is made from the revision that was seen last."""
        headers = {"Content-Type": "application/json", "Authorization": f"Bearer {self.token}"}
        study = path.split("/")[1].split("?")[0] if path.startswith("studies/") else ""
        if study and method != "GET":
            if study not in self.seen:
                self.call("GET", f"studies/{study}")
            headers["If-Match"] = self.seen[study]
        url = f"{self.address}/api/{path}"
        request = urllib.request.Request(url, data=body, headers=headers, method=method)
        try:
            with urllib.request.urlopen(request) as reply:
                if study and reply.headers["ETag"]:
                    self.seen[study] = reply.headers["ETag"]
                return reply.read()
        except urllib.error.HTTPError as refused:
            problem = json.loads(refused.read())  # as RFC 9457 has it
            sys.exit(f"{problem['title']}: {problem['detail']}")

    def result(self, study, stage):
        """The result of a stage; while the work is under way, it is asked for again."""
        while True:
            reply = json.loads(self.call("GET", f"studies/{study}/{stage}"))
            if reply["blocked"]:
                sys.exit(reply["blocked"][0]["sentence"])
            if reply["result"] is not None:
                return reply["result"]
            time.sleep(0.2)


def main(address, plan, data, out):
    """Make a study by a plan, print its hazard ratios, save its report."""
    client = Client(address)
    named = json.dumps({"name": Path(data).stem}).encode()
    study = json.loads(client.call("POST", "studies", named))["id"]
    client.call("PUT", f"studies/{study}/plan-in-place", Path(plan).read_bytes())
    name = urllib.parse.quote(Path(data).name)
    client.call("PUT", f"studies/{study}/file?name={name}", Path(data).read_bytes())
    for term in client.result(study, "model")["terms"]:
        for one in term["coefficients"]:
            ratio = one["adjusted"]
            print(one["label"], one["comparison"], ratio["ratio"], ratio["lower"], ratio["upper"], sep="\t")
    form = Path(out).suffix.removeprefix(".")
    Path(out).write_bytes(client.call("GET", f"studies/{study}/report.{form}"))


if __name__ == "__main__":
    main(*sys.argv[1:])
