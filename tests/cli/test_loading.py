"""A little of what ``bench --load`` does to a whole program: files made to break it, and kills."""

import pytest

from hostile_files import HOSTILE
from hourglass.cli.load.files import send_files
from hourglass.cli.load.kills import killed_again_and_again
from hourglass.cli.load.program import MIB, folder_of_its_own, running_program

pytestmark = [pytest.mark.timeout(600), pytest.mark.xdist_group("start")]

SENT = (
    "300 MB of spaces in a sheet",
    "90 million zeros",
    "a text of 50 MB",
    "entities within entities",
)


def test_files_made_to_break_the_program_disturb_nobody(tmp_path):
    for one in HOSTILE:
        if one.name in SENT:
            (tmp_path / one.name).write_bytes(one.make())
    with folder_of_its_own() as var, running_program(var) as program, program.client(60) as client:
        sent = send_files(program, client, tmp_path)
    assert [one.status for one in sent] == [422, 422, 204, 422]
    assert max(one.longest_ping for one in sent) < 5, "within a second on a calm machine"
    assert max(one.reader for one in sent) < 1024 * MIB
    assert max(one.server for one in sent) < 200 * MIB


def test_kills_lose_nothing_that_was_acknowledged():
    kills, made, lost = killed_again_and_again(2, seed=2)
    assert kills == 2
    assert made > 0
    assert lost == 0
