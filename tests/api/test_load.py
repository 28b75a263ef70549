"""A little of what ``bench --load`` does in full."""

from contextlib import nullcontext

import pytest
from fastapi.testclient import TestClient

from examples import examples
from hourglass.cli.load.callers import answered_by_faults, lost_changes

REQUESTS = examples(500)


def calling(client):
    """One more client of the interface; the application is there already."""
    address = f"{client.base_url}/api"
    return TestClient(client.app, base_url=address, raise_server_exceptions=False)


@pytest.mark.parametrize("demo", ["lamps", "larkmoor_as_received"])
def test_no_request_is_answered_by_a_fault(client, demo):
    found = answered_by_faults(calling(client), demo, REQUESTS, seed=24)
    assert sum(found.values()) == REQUESTS
    assert {status for status in found if status >= 500} == set()
    assert len(found) > 4, "some are taken, and some refused in several ways"


def test_no_acknowledged_change_is_lost(client):
    made, lost = lost_changes(lambda: nullcontext(calling(client)), writers=4, times=12)
    assert made >= 12
    assert lost == 0
