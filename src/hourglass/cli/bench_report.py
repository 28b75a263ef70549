"""Measuring the report of the demo: gathered anew and from kept numbers, and written in every form."""

import time
from collections.abc import Callable
from typing import TypeVar

from hourglass.analysis.registry import STAGES
from hourglass.core.progress import no_progress
from hourglass.report.composed import Composed
from hourglass.report.formats.registry import FORMS
from hourglass.report.gathering import report_statement
from hourglass.report.pieces.registry import PIECES
from hourglass.report.reporting import composed_now
from hourglass.study.actions.action import REPORT
from hourglass.study.demos import load_demo
from hourglass.study.in_memory import BlobsInMemory, InMemory
from hourglass.study.in_process import InProcess
from hourglass.study.results import Results

V = TypeVar("V")
DEMO = "larkmoor"


def run_report_bench() -> None:
    """Print the seconds of processor time that a report takes, and how many times its gathering that is."""
    repository, kept = InMemory(), BlobsInMemory()
    study_id, _ = load_demo(repository, kept, DEMO)
    for stage in STAGES:
        repository.open_analysis(repository.begin_analysis(study_id, stage.name, begun=False))
    study, executor = repository.load(study_id), InProcess()
    statement = report_statement(study.analysis(REPORT))
    print(f"\nthe report of {study.name}, processor time\n")

    def gathered() -> tuple[float, Composed]:
        results = Results(repository, kept, executor, STAGES)
        return _taken(lambda: composed_now(results, PIECES, study, statement, no_progress))

    first, _ = gathered()
    again, report = gathered()
    _show("gathered, every number computed", first, again)
    _show("gathered from kept numbers", again, again)
    for form in FORMS:
        _show(f"written as {form.key.upper()}", _taken(lambda f=form: f.write(report))[0], again)  # type: ignore[misc]
    executor.close()


def _taken(run: Callable[[], V]) -> tuple[float, V]:
    begun = time.process_time()
    made = run()
    return time.process_time() - begun, made


def _show(name: str, seconds: float, floor: float) -> None:
    print(f"  {name:<42}{seconds:>9.2f} s{seconds / floor:>7.1f} × gathering", flush=True)
