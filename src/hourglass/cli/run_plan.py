"""A plan run on a file: no server, no database; the same files for the same plan and data."""

from collections.abc import Mapping
from contextlib import closing
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime, time
from pathlib import Path

from pydantic import ValidationError

from hourglass.analysis.registry import STAGES
from hourglass.analysis.shared.input import COHORT, Missing
from hourglass.analysis.shared.result import StageResult
from hourglass.cli.machine import announce, install_page_libraries
from hourglass.cli.out_folder import UnusableFolderError, made_ready, refuse_written, write_files
from hourglass.cohort.followup import Cohort
from hourglass.cohort.reading.packed import packed
from hourglass.cohort.reading.read import read
from hourglass.cohort.reading.recipe import UnreadableFileError
from hourglass.cohort.words import listed
from hourglass.core.progress import no_progress
from hourglass.report.gathering import Gathering, report_statement
from hourglass.report.inputs import ReportInputs
from hourglass.report.outputs import outputs
from hourglass.report.pieces.decisions import undecided
from hourglass.report.pieces.registry import PIECES
from hourglass.report.planned import unusable
from hourglass.report.reported_views import report_pieces
from hourglass.study.actions.action import REPORT
from hourglass.study.commands.files import kept_file
from hourglass.study.commands.tables import add_table
from hourglass.study.demos import demos, load_demo
from hourglass.study.in_memory import BlobsInMemory, InMemory
from hourglass.study.in_process import InProcess
from hourglass.study.place import DEMO as DEMO_FOLDER
from hourglass.study.plans.applying import BrokenSealError, study_by_plan
from hourglass.study.plans.columns import missing_columns
from hourglass.study.plans.document import StudyPlan, plan_of_study
from hourglass.study.plans.fit import step_lines
from hourglass.study.plans.mistakes import wrong_places
from hourglass.study.plans.steps import steps_for_file
from hourglass.study.results import Results
from hourglass.study.study import Study

ALL_FITS, NOT_ALL_FITS, NO_PLAN, NO_DATA, NO_COHORT, NO_FOLDER = 0, 1, 3, 4, 5, 6
"""What the command ends with; 2 is a wrong command line."""
DEMO, DEMO_DATED = "larkmoor", date(2026, 1, 1)


def run_plan(
    plan_file: Path,
    data_file: Path,
    out: Path,
    *,
    renamed: Mapping[str, str] | None = None,
    tables: Mapping[str, Path] | None = None,
    clear: bool = False,
) -> int:
    """Write everything that a plan makes of a file into a folder; gives the exit code.

    Args:
        tables: the files of the plan's further tables, by the tables' names.
        renamed: columns of the file that the plan knows by another name: the file's name to the plan's.
        clear: whether what was written into the folder before is cleared.
    """
    plan = read_plan(plan_file)
    if plan is None:
        return NO_PLAN
    return _run(plan.with_columns_renamed(renamed or {}), data_file, tables or {}, out, clear)


def seal(plan_file: Path, out: Path, *, clear: bool = False) -> int:
    """Write a plan with the moment and the hash that seal it; gives the exit code."""
    if refuse_written(out, clear):
        return NO_FOLDER
    plan = read_plan(plan_file)
    if plan is None:
        return NO_PLAN
    if plan.sealed is not None:
        announce(f"The plan was sealed already, on {plan.sealed.at:%-d %B %Y}.")
        return NO_PLAN
    sealed = plan.sealed_at(datetime.now(UTC).replace(microsecond=0))
    out.write_text(sealed.model_dump_json(indent=1) + "\n", encoding="utf-8")
    print(sealed.sha256)
    return ALL_FITS


def read_plan(file: Path) -> StudyPlan | None:
    """The plan in a file; None where it cannot be used, which is stated."""
    try:
        plan = StudyPlan.model_validate_json(file.read_bytes())
    except (OSError, ValidationError) as why:
        announce(f"The plan cannot be read: {_where(why)}")
        return None
    wrong = unusable(plan, STAGES)
    if plan.seal_broken:
        wrong.append(str(BrokenSealError()))
    if wrong:
        announce("The plan cannot be used:")
        for sentence in wrong:
            announce(f"  {sentence}")
    return None if wrong else plan


def run_demo(out: Path, *, clear: bool = False) -> int:
    """Write everything that the demo study comes to, every stage opened; gives the exit code."""
    repository = InMemory()
    made, _ = load_demo(repository, BlobsInMemory(), DEMO)
    for stage in STAGES:
        repository.open_analysis(repository.begin_analysis(made, stage.name, begun=False))
    plan = plan_of_study(repository.load(made)).model_copy(update={"dated": DEMO_DATED})
    return _run(plan, DEMO_FOLDER / str(demos()[DEMO]["file"]), {}, out, clear)


def _run(
    plan: StudyPlan, data_file: Path, tables: Mapping[str, Path], out: Path, clear: bool
) -> int:
    try:
        out = made_ready(out, replace=clear)
    except UnusableFolderError as why:
        announce(str(why))
        return NO_FOLDER
    made = made_of(plan, data_file, tables)
    if isinstance(made, int):
        return made
    with closing(made.results):
        return _write(plan, made.results, made.study, out)


@dataclass(frozen=True, slots=True)
class Made:
    """A study that a plan made of a file, in memory, with where its results come from."""

    study: Study
    results: Results
    cohort: Cohort


def made_of(
    plan: StudyPlan, data_file: Path, tables: Mapping[str, Path] | None = None
) -> Made | int:
    """The study that a plan makes of files; or, where it makes none, which is stated, the exit code.

    Args:
        tables: the files of the plan's further tables, by the tables' names.
    """
    given = tables or {}
    stated = {table.stated.name: table for table in plan.tables}
    strange = [name for name in given if name not in stated]
    if strange:
        known = f"it has {listed(list(stated))}" if stated else "it has none"
        announce(f"The plan has no further table called {listed(strange)}: {known}.")
        return NO_PLAN
    try:
        data = data_file.read_bytes()
        reading = read(data, plan.reading)
        further = {
            name: (file.read_bytes(), read(file.read_bytes(), stated[name].reading))
            for name, file in given.items()
        }
    except (OSError, UnreadableFileError) as why:
        announce(f"The data cannot be read: {why}")
        return NO_DATA
    noon = datetime.combine(plan.dated, time(12), UTC)
    repository, kept = InMemory(lambda: noon), BlobsInMemory()
    file = kept_file(kept, data_file.name, data, packed(reading))
    # Decisions are dated as the plan states; the file is read now.
    file = replace(file, read_at=datetime.now(UTC))
    study = study_by_plan(repository, plan, file, steps_for_file(plan, file.sha256, reading.table))
    for name, (whole, table) in further.items():
        extract = replace(
            kept_file(kept, given[name].name, whole, packed(table)), read_at=datetime.now(UTC)
        )
        study = add_table(repository, study, extract, stated[name].stated)
    results = Results(repository, kept, InProcess(), STAGES)
    found = COHORT.load(results.source(study))
    if not isinstance(found, Missing):
        return Made(study, results, found)
    announce(f"The plan does not make a cohort of {data_file.name}:")
    for sentence in missing_columns(plan, STAGES, results.source(study).after_steps()):
        announce(f"  {sentence}")
    for block in found.blocks:
        announce(f"  {block.sentence}")
    return NO_COHORT


def _write(plan: StudyPlan, results: Results, study: Study, out: Path) -> int:
    install_page_libraries()
    statement = report_statement(study.analysis(REPORT))
    pieces = report_pieces(results, PIECES, study)
    found = Gathering(results, pieces, study, statement).now(no_progress)
    write_files(out, outputs(results, pieces, study, found, no_progress))
    left = undecided(found)
    if left:
        announce(left)
    misfits = _misfits(plan, results, study, found)
    for sentence in misfits:
        announce(f"Does not fit: {sentence}")
    return NOT_ALL_FITS if misfits else ALL_FITS


def _misfits(plan: StudyPlan, results: Results, study: Study, gathered: ReportInputs) -> list[str]:
    """What of a plan could not be carried out on these data, in sentences."""
    assert study.file is not None
    source = results.source(study)
    steps = steps_for_file(plan, study.file.sha256, source.table())
    lines = step_lines(steps, source.applied()[1])
    found = [f"{line.part}, {line.states}: {line.why}" for line in lines if line.why]
    found += missing_columns(plan, STAGES, source.after_steps())
    for stage in STAGES:
        result = gathered.results.get(stage.name)
        if isinstance(result, StageResult) and result.blank:
            found.append(f"{stage.title}: {result.blank}")
    return found


def _where(why: Exception) -> str:
    """What is wrong with a plan, and where; all of it."""
    if not isinstance(why, ValidationError):
        return str(why)
    return " ".join(wrong_places(StudyPlan, why))
