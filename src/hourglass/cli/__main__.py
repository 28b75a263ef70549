"""``./hourglass``: one word for each thing a person does with the program."""

import signal
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Annotated, TypeVar

import typer

from hourglass.cli.machine import MissingPieceError
from hourglass.study.place import CHECKOUT, COMMAND

NOT_TO_BE_DONE = 7
"""What a command ends with where the machine does not let it: a full disk, a file that cannot be read."""
OverFile = Annotated[
    bool, typer.Option("--replace", help="Write over a file that is there already.")
]
app = typer.Typer(
    help="Olden Hourglass: censored follow-up data, from a messy data extract to a report.",
    no_args_is_help=True,
    add_completion=False,
    pretty_exceptions_enable=False,
)
F = TypeVar("F", bound=Callable[..., None])


def of_sources(name: str) -> Callable[[F], F]:
    """A command that an installed program does not have, as it lacks what the command works on."""
    return _as_it_is if CHECKOUT is None else app.command(name)


def _as_it_is(command: F) -> F:
    return command


@app.command()
def start() -> None:
    """Install what is missing, build, start the database, load the demo studies, and serve.

    PORT= chooses another port than 8000. DATABASE_URL= uses a PostgreSQL server you already have.
    HOURGLASS_UPLOAD_LIMIT_MB= changes how large a file may be.
    """
    from hourglass.cli.serve import serve

    sys.exit(serve())


@of_sources("test")
def run_everything(
    words: Annotated[list[str] | None, typer.Argument(help="Words handed on to pytest.")] = None,
) -> None:
    """Install what is missing and run everything: linters, types, and all tests."""
    from hourglass.cli.testing import run_tests

    sys.exit(run_tests(words or []))


@of_sources("check")
def check() -> None:
    """Run formatters, linters and type checks of both languages only."""
    from hourglass.cli.checks import run_checks
    from hourglass.cli.machine import announce
    from hourglass.cli.outcomes import summary

    with tempfile.TemporaryDirectory(prefix="hourglass-check-") as folder:
        found = run_checks(Path(folder))
    announce(summary(found))
    sys.exit(0 if all(one.passed for one in found) else 1)


@of_sources("bench")
def bench(
    rows: Annotated[int, typer.Option(min=1000, help="How many rows to measure with.")] = 1_000_000,
    browser: Annotated[
        bool, typer.Option(help="Measure the page instead, with a tenth of so many times a group.")
    ] = False,
    growth: Annotated[
        bool, typer.Option(help="Measure how a Newton step grows with rows and columns instead.")
    ] = False,
    properties: Annotated[
        bool, typer.Option(help="Try the properties with many made-up inputs instead.")
    ] = False,
    load: Annotated[
        float,
        typer.Option(
            min=0,
            max=1,
            help="Load a whole program instead, with so much of all it must bear: 1 is all.",
        ),
    ] = 0,
    files: Annotated[
        Path | None,
        typer.Option(help="With --load: a folder of files that are sent to it, each once."),
    ] = None,
) -> None:
    """Measure the core against the floor: one sort, and one matrix product, in the same run."""
    from hourglass.cli.bench_core import run_core_bench, run_growth_bench, run_records_bench
    from hourglass.cli.bench_model import run_model_bench
    from hourglass.cli.bench_page import run_large_page_bench, run_page_bench
    from hourglass.cli.bench_reading import run_reading_bench
    from hourglass.cli.bench_report import run_report_bench
    from hourglass.cli.bench_slots import run_slot_bench

    if properties:
        from hourglass.cli.testing import try_properties

        sys.exit(try_properties())
    if load:
        from hourglass.cli.bench_load import run_load_bench

        run_load_bench(load, files)
        return
    if browser:
        run_large_page_bench(rows // 10)
        run_slot_bench()
        return
    if growth:
        run_growth_bench()
        return
    run_core_bench(rows)
    run_records_bench(rows // 10)
    run_model_bench(rows // 10)
    run_reading_bench(rows)
    run_page_bench()
    run_report_bench()


@of_sources("client")
def client() -> None:
    """Keep the OpenAPI document, from which the web client's types are made, and the schema of plans."""
    from hourglass.cli.client_types import write_documents

    write_documents()


@of_sources("package")
def make_package(
    out: Annotated[Path, typer.Option(help="The folder that the wheel is written into.")],
) -> None:
    """Build the client, and the wheel that holds it, the demo studies and all that the program needs."""
    from hourglass.cli.package import build_wheel

    print(build_wheel(out))


@app.command("run")
def run_a_plan(
    plan: Annotated[Path, typer.Argument(exists=True, dir_okay=False, help="The plan, as JSON.")],
    data: Annotated[Path, typer.Argument(exists=True, dir_okay=False, help="The file of data.")],
    out: Annotated[Path, typer.Option(help="The folder that everything is written into.")],
    rename: Annotated[
        list[str] | None,
        typer.Option(
            help="NEW=OLD: the file's column NEW is what the plan calls OLD; may be repeated."
        ),
    ] = None,
    table: Annotated[
        list[str] | None,
        typer.Option(help="NAME=FILE: the file of the plan's further table NAME; may be repeated."),
    ] = None,
    replace: Annotated[
        bool, typer.Option("--replace", help="Clear what a command wrote into that folder before.")
    ] = False,
) -> None:
    """Run a plan on a file: report, tables, figures, rows and results, without server or database.

    Ends with 0 where all of the plan fits the data, 1 where something does not (it is stated, and the rest is
    written), 2 for a wrong command, 3 for a plan and 4 for data that cannot be read, and 5 where the plan
    makes no cohort of the data, 6 for a folder that is not free. Findings that nobody decided are named.
    """
    from hourglass.cli.logs import write_no_logs
    from hourglass.cli.run_plan import run_plan

    write_no_logs()
    pairs = [pair.partition("=") for pair in rename or ()]
    if any(not new or not old for new, _, old in pairs):
        raise typer.BadParameter("give --rename as NEW=OLD", param_hint="--rename")
    renamed = {new: old for new, _, old in pairs}
    named = [given.partition("=") for given in table or ()]
    if any(not name or not file for name, _, file in named):
        raise typer.BadParameter("give --table as NAME=FILE", param_hint="--table")
    tables = {name: Path(file) for name, _, file in named}
    sys.exit(run_plan(plan, data, out, renamed=renamed, tables=tables, clear=replace))


@app.command("apply")
def apply_a_model(
    plan: Annotated[Path, typer.Argument(exists=True, dir_okay=False, help="The plan, as JSON.")],
    data: Annotated[
        Path,
        typer.Argument(exists=True, dir_okay=False, help="The file that the model is fitted to."),
    ],
    other: Annotated[
        Path, typer.Argument(exists=True, dir_okay=False, help="The file that it is applied to.")
    ],
    out: Annotated[Path, typer.Option(help="The folder that everything is written into.")],
    model: Annotated[
        str, typer.Option(help="The letter of a kept model; else the one shown.")
    ] = "",
    time: Annotated[
        float | None, typer.Option(help="When survival is predicted; else half the follow-up.")
    ] = None,
    replace: Annotated[
        bool, typer.Option("--replace", help="Clear what a command wrote into that folder before.")
    ] = False,
) -> None:
    """Apply a plan's model to another file, prepared alike: predictions, concordance, calibration there.

    Writes applied.json, predictions.csv and the figure of calibration. Ends with 0, with 1 where the model
    cannot be applied to the file, and as run does where plan or data cannot be used.
    """
    from hourglass.cli.apply_model import apply_model
    from hourglass.cli.logs import write_no_logs

    write_no_logs()
    sys.exit(apply_model(plan, data, other, model, time, out, replace=replace))


@app.command()
def seal(
    plan: Annotated[Path, typer.Argument(exists=True, dir_okay=False, help="The plan, as JSON.")],
    out: Annotated[Path, typer.Option(help="The file that the sealed plan is written into.")],
    replace: OverFile = False,
) -> None:
    """Seal a plan before there are data: with the moment and its SHA-256, which is printed.

    The report of a sealed plan states when it was sealed and what departs from it; a sealed plan that was
    changed is refused. Ends with 0, or with 3 for a plan that cannot be read or was sealed already.
    """
    from hourglass.cli.run_plan import seal as seal_file

    sys.exit(seal_file(plan, out, clear=replace))


@app.command()
def demo(
    out: Annotated[Path, typer.Option(help="The folder that everything is written into.")],
    replace: Annotated[
        bool, typer.Option("--replace", help="Clear what a command wrote into that folder before.")
    ] = False,
) -> None:
    """Run the example of the README without a browser, and write all that it comes to."""
    from hourglass.cli.logs import write_no_logs
    from hourglass.cli.run_plan import run_demo

    write_no_logs()
    sys.exit(run_demo(out, clear=replace))


studies = typer.Typer(
    help="Studies as archives, with or without a server that runs.", no_args_is_help=True
)
app.add_typer(studies, name="study")


@studies.command("list")
def list_studies() -> None:
    """Print every study: its id, its name and its file."""
    from hourglass.cli.study_archives import list_studies as listed

    sys.exit(listed())


@studies.command("deleted")
def list_deletions() -> None:
    """Print every study that was deleted, and when; those gone for good among them."""
    from hourglass.cli.study_archives import list_deletions as listed

    sys.exit(listed())


@studies.command("export")
def export_study(
    study: Annotated[str, typer.Argument(help="The study's id, or its name.")],
    out: Annotated[Path, typer.Option(help="The archive that is written.")],
    replace: OverFile = False,
) -> None:
    """Write a study into one archive: its files as they came, its tables, and its log with every date.

    Results are not in it: they are made again. Ends with 0, or with 1 where it cannot be written.
    """
    from hourglass.cli.study_archives import export_study as exported

    sys.exit(exported(study, out, replace))


@studies.command("import")
def import_study(
    archive: Annotated[Path, typer.Argument(exists=True, dir_okay=False, help="The archive.")],
) -> None:
    """Make a study of an archive, beside those that there are; its id is printed.

    Ends with 0, or with 1 for a file that is no archive or was damaged; nothing is taken in then.
    """
    from hourglass.cli.study_archives import import_study as imported

    sys.exit(imported(archive))


@app.command()
def backup(
    out: Annotated[Path, typer.Argument(help="The file that is written.")],
    replace: OverFile = False,
) -> None:
    """Write all studies into one file, also while the program runs: the database and every file.

    The file is read again before the command ends. Ends with 0, or with 1 where it cannot be made.
    """
    from hourglass.cli.backup import back_up

    sys.exit(back_up(out, replace))


@app.command()
def restore(
    backup_file: Annotated[
        Path, typer.Argument(metavar="BACKUP", exists=True, dir_okay=False, help="The backup.")
    ],
) -> None:
    """Bring all studies back from a backup, into a folder of data that holds nothing yet.

    HOURGLASS_VAR= names the folder. Ends with 0, or with 1 for a file that is no backup or was damaged, and
    where there are studies already; nothing is changed then.
    """
    from hourglass.cli.backup import bring_back

    sys.exit(bring_back(backup_file))


@app.command()
def doctor() -> None:
    """Look through what is kept: every file against its hash, every row against its files, free room.

    A table that was damaged is made again from its file; what nothing names is taken away. Ends with 0, or
    with 1 where something is wrong that only a person can mend.
    """
    from hourglass.cli.doctor import look_through

    sys.exit(look_through())


@app.command("help")
def show_help() -> None:
    """Show what can be done."""
    app(["--help"], prog_name=COMMAND)


def _interrupted(number: int, frame: object) -> None:
    """When it is ended, a command lets go of what it has started, as when it is interrupted."""
    raise KeyboardInterrupt


def main() -> None:
    """Run the command that was typed."""
    signal.signal(signal.SIGTERM, _interrupted)
    try:
        app(prog_name=COMMAND)
    except (MissingPieceError, OSError) as failed:  # a full disk, a file that is not ours to read
        print(f"This could not be done: {failed}", file=sys.stderr)
        sys.exit(NOT_TO_BE_DONE)


if __name__ == "__main__":
    main()
