"""What came of a run of checks and tests: all that failed, and one total."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from xml.etree import ElementTree


@dataclass(frozen=True, slots=True)
class Outcome:
    """What came of one part of a run.

    Attributes:
        name: what was run.
        passed: whether nothing was found.
        tests: how many tests it had; 0 where it is one check.
        failed: the names of the tests that failed.
    """

    name: str
    passed: bool
    tests: int = 0
    failed: tuple[str, ...] = ()


def outcome_of(name: str, xml: Path, status: int) -> Outcome:
    """What a test runner wrote into a JUnit file; its exit status counts too."""
    if not xml.is_file():
        return Outcome(name, passed=status == 0)
    cases = list(ElementTree.parse(xml).iter("testcase"))  # noqa: S314 (our own file)
    failed = tuple(
        f"{case.get('classname', '')} {case.get('name', '')}".strip()
        for case in cases
        if case.find("failure") is not None or case.find("error") is not None
    )
    return Outcome(name, status == 0 and not failed, len(cases), failed)


def summary(outcomes: Sequence[Outcome]) -> str:
    """The last lines of a run: every failure of every part, and one total."""
    lines = []
    for outcome in outcomes:
        if not outcome.passed:
            lines += [f"FAILED  {outcome.name}: {test}" for test in outcome.failed]
            if not outcome.failed:
                lines.append(f"FAILED  {outcome.name}")
    tests = sum(outcome.tests for outcome in outcomes)
    checks = sum(outcome.tests == 0 for outcome in outcomes)
    ran = f"{tests} tests" + (f" and {checks} checks" if checks else "")
    lines.append(f"{ran}: {len(lines)} failed" if lines else f"{ran}: all passed")
    return "\n".join(lines)
