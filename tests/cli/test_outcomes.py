"""The last lines of a run show every failure of every part, and one total."""

from hourglass.cli.outcomes import Outcome, outcome_of, summary

XML = """<testsuites><testsuite>
<testcase classname="tests.core.test_x" name="test_good"/>
<testcase classname="tests.core.test_x" name="test_bad"><failure message="no"/></testcase>
<testcase classname="tests.core.test_y" name="test_never"><error message="no"/></testcase>
</testsuite></testsuites>"""


def test_all_failures_of_all_parts_are_shown_and_counted_once(tmp_path):
    file = tmp_path / "results.xml"
    file.write_text(XML)
    tests = outcome_of("tests of Python", file, 1)
    assert (tests.tests, tests.passed) == (3, False)
    shown = summary([Outcome("lint of Python", passed=False), Outcome("types", passed=True), tests])
    assert shown.splitlines() == [
        "FAILED  lint of Python",
        "FAILED  tests of Python: tests.core.test_x test_bad",
        "FAILED  tests of Python: tests.core.test_y test_never",
        "3 tests and 2 checks: 3 failed",
    ]


def test_a_run_that_passes_states_so_in_one_line(tmp_path):
    assert (
        summary([Outcome("a", True, 5), Outcome("b", True)]) == "5 tests and 1 checks: all passed"
    )


def test_a_runner_that_breaks_off_has_failed_whatever_it_shown(tmp_path):
    file = tmp_path / "results.xml"
    file.write_text(XML.replace('<failure message="no"/>', "").replace('<error message="no"/>', ""))
    broken = outcome_of("tests of Python", file, 3)
    assert not broken.passed
    assert summary([broken]).splitlines()[0] == "FAILED  tests of Python"
    assert not outcome_of("never begun", tmp_path / "nothing.xml", 2).passed
