"""Change the program a little, many times over, and see whether its tests notice.

    .venv/bin/python tools/mutants.py map /tmp/reached.json
    .venv/bin/python tools/mutants.py run core /tmp/reached.json --number 200 --seed 1

The first command runs the tests once and writes which of them reach which line. The second draws changes
by a seed, makes each in a copy of the program, runs the tests that reach it, and prints those that no test
noticed.
"""

import argparse
import ast
import json
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass
from itertools import accumulate
from operator import itemgetter
from pathlib import Path
from queue import Queue

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "src"))

from hourglass.cli.cluster import Cluster  # noqa: E402
from hourglass.cli.machine import postgres_binaries  # noqa: E402

AREAS = {"core": "core", "steps": "cohort/steps", "study": "study", "report": "report"}
TESTS = ("core", "cohort", "analysis", "study", "store", "report", "api")
"""The folders of tests that notice; those that start browsers and programs are too slow for it."""
FIRST_TESTS = 40
"""So many of the tests that reach a change are run at first, the quickest of them."""
MAX_SECONDS = 60
"""So many seconds of the others are run where none of the first notices."""
LONGEST = 300
"""Seconds after which a change counts as noticed: nothing comes to an end any more."""
OTHERS: dict[type, type] = {
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq,
    ast.Is: ast.IsNot, ast.IsNot: ast.Is, ast.In: ast.NotIn, ast.NotIn: ast.In,
    ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult, ast.FloorDiv: ast.Div,
    ast.Pow: ast.Mult, ast.Mod: ast.Mult, ast.BitAnd: ast.BitOr, ast.BitOr: ast.BitAnd,
    ast.And: ast.Or, ast.Or: ast.And,
}  # fmt: skip
NAMES = {"min": "max", "max": "min", "any": "all", "all": "any"}


@dataclass(frozen=True)
class Mutant:
    """A change: which node of a file, counted as the tree is walked, and how it reads before and after."""

    file: str
    node: int
    line: int
    before: str
    after: str


def changed(node: ast.AST) -> ast.AST | None:
    """The node changed a little, in a copy; None for one that has no other form."""
    match node:
        case ast.Compare(ops=[op]) if type(op) in OTHERS:
            return ast.Compare(node.left, [OTHERS[type(op)]()], node.comparators)
        case ast.BinOp(op=op) if type(op) in OTHERS:
            return ast.BinOp(node.left, OTHERS[type(op)](), node.right)
        case ast.BoolOp(op=op, values=values):
            return ast.BoolOp(OTHERS[type(op)](), values)
        case ast.UnaryOp(op=ast.Not() | ast.USub()):
            return node.operand
        case ast.Constant(value=bool() as value):
            return ast.Constant(not value)
        case ast.Constant(value=int() as value):
            return ast.Constant(value + 1)
        case ast.Constant(value=float() as value):
            return ast.Constant(value * 1.5 + 0.5)
        case ast.If(test=test):
            return ast.If(ast.UnaryOp(ast.Not(), test), node.body, node.orelse)
        case ast.IfExp(test=test):
            return ast.IfExp(ast.UnaryOp(ast.Not(), test), node.body, node.orelse)
        case ast.Name(id=name, ctx=ast.Load()) if name in NAMES:
            return ast.Name(NAMES[name], ast.Load())
        case ast.AugAssign():
            return ast.Pass()
        case ast.Expr(value=ast.Call()):
            return ast.Pass()
    return None


def mutants_of(file: Path) -> Iterator[Mutant]:
    """The changes that the bodies of a file's functions allow."""
    tree = ast.parse(file.read_text(encoding="utf-8"))
    inside = set[int]()
    for function in ast.walk(tree):
        if isinstance(function, ast.FunctionDef | ast.AsyncFunctionDef):
            for statement in function.body:
                inside |= {id(node) for node in ast.walk(statement)}
    words = {id(n) for f in ast.walk(tree) if isinstance(f, ast.JoinedStr) for n in ast.walk(f)}
    for place, node in enumerate(ast.walk(tree)):
        if id(node) in inside - words and (other := changed(node)) is not None:
            before, after = ast.unparse(node), ast.unparse(ast.fix_missing_locations(other))
            name = str(file.relative_to(ROOT))
            yield Mutant(name, place, node.lineno, _first(before), _first(after))  # type: ignore[attr-defined]


def _first(code: str) -> str:
    return code.split("\n", maxsplit=1)[0][:100]


class _At(ast.NodeTransformer):
    def __init__(self, wanted: ast.AST) -> None:
        self.wanted = wanted

    def visit(self, node: ast.AST) -> ast.AST:
        return changed(node) or node if node is self.wanted else self.generic_visit(node)


def mutated(text: str, mutant: Mutant) -> str:
    """A file's text with a change made."""
    tree = ast.parse(text)
    wanted = next(n for k, n in enumerate(ast.walk(tree)) if k == mutant.node)
    return ast.unparse(ast.fix_missing_locations(_At(wanted).visit(tree)))


@contextmanager
def database() -> Iterator[dict[str, str]]:
    """An environment with a database for tests."""
    folder = Path(tempfile.mkdtemp(prefix="hourglass-mutants-"))
    folder.chmod(0o755)
    cluster = Cluster(folder / "postgres", postgres_binaries(), durable=False)
    try:
        yield {**os.environ, "HOURGLASS_TEST_DATABASE": cluster.start()}
    finally:
        cluster.stop()
        shutil.rmtree(folder, ignore_errors=True)


def write_map(out: Path) -> None:
    """Run the tests once, and write which of them reach which line, and how long each takes."""
    from coverage import CoverageData

    data = out.with_suffix(".coverage")
    folders = [f"tests/{name}" for name in TESTS]
    command = [sys.executable, "-m", "pytest", "-q", "-n", "2", "--dist", "loadgroup"]
    command += ["--cov=hourglass", "--cov-context=test", "--cov-report=", "--durations=0", "-vv"]
    with database() as environment:
        own = {**environment, "COVERAGE_FILE": str(data)}
        done = subprocess.run(
            [*command, *folders], cwd=ROOT, env=own, capture_output=True, text=True, check=False
        )
    seconds = dict[str, float]()
    for line in done.stdout.splitlines():
        words = line.split(maxsplit=2)
        if len(words) == 3 and words[0].endswith("s") and words[1] in ("call", "setup"):
            seconds[words[2]] = seconds.get(words[2], 0.0) + float(words[0][:-1])
    found = CoverageData(basename=str(data))
    found.read()
    numbers = dict[str, int]()
    reached = {}
    for file in found.measured_files():
        lines = found.contexts_by_lineno(file)
        reached[str(Path(file).relative_to(ROOT))] = {
            line: sorted({numbers.setdefault(c.split("|")[0], len(numbers)) for c in by if c})
            for line, by in lines.items()
        }
    tests = [[name, seconds.get(name, 0.0)] for name in numbers]
    out.write_text(json.dumps({"reached": reached, "tests": tests}))
    print(done.stdout.splitlines()[-1])


def copied() -> Path:
    """A copy of the program with its tests."""
    made = Path(tempfile.mkdtemp(prefix="hourglass-mutant-"))
    keep = shutil.ignore_patterns(
        "__pycache__", "node_modules", "dist", ".venv", ".git", "var", ".*cache"
    )
    shutil.copytree(ROOT, made / "tree", ignore=keep)
    return made / "tree"


def noticed(tree: Path, mutant: Mutant, tests: list[str], environment: dict[str, str]) -> bool:
    """Whether one of the tests fails with a change made in a copy of the program."""
    file = tree / mutant.file
    text = file.read_text(encoding="utf-8")
    file.write_text(mutated(text, mutant), encoding="utf-8")
    names = tree / "names"
    names.write_text("\n".join(tests))
    command = [sys.executable, "-m", "pytest", "-q", "-x", "-p", "no:cacheprovider", f"@{names}"]
    own = {name: value for name, value in environment.items() if name != "PYTHONPATH"}
    try:
        done = subprocess.run(
            command, cwd=tree, env=own, capture_output=True, check=False, timeout=LONGEST
        )
        return done.returncode != 0
    except subprocess.TimeoutExpired:
        return True
    finally:
        file.write_text(text, encoding="utf-8")


def in_parts(reach: list[tuple[str, float]]) -> Iterator[list[str]]:
    """The tests to run, in turn: the quickest, then those of the others that there is time for."""
    by_time = sorted(reach, key=itemgetter(1))
    spent = accumulate(seconds for _, seconds in by_time[FIRST_TESTS:])
    there_is_time = sum(seconds <= MAX_SECONDS for seconds in spent)
    for part in (by_time[:FIRST_TESTS], by_time[FIRST_TESTS : FIRST_TESTS + there_is_time]):
        if part:
            yield [name for name, _ in part]


def run(area: str, known: Path, number: int, seed: int) -> None:
    """Draw changes of an area, and print those that no test notices."""
    read = json.loads(known.read_text())
    reached, tests = read["reached"], read["tests"]
    folder = ROOT / "src" / "hourglass" / AREAS[area]
    every = [m for file in sorted(folder.rglob("*.py")) for m in mutants_of(file)]
    drawn = random.Random(seed).sample(every, min(number, len(every)))  # noqa: S311
    trees: Queue[Path] = Queue()
    for _ in range(2):
        trees.put(copied())
    survived = 0
    with database() as environment, ThreadPoolExecutor(2) as pool:

        def one(mutant: Mutant) -> bool:
            reach = [tests[k] for k in reached.get(mutant.file, {}).get(str(mutant.line), [])]
            tree = trees.get()
            try:
                return any(noticed(tree, mutant, part, environment) for part in in_parts(reach))
            finally:
                trees.put(tree)

        for mutant, seen in zip(drawn, pool.map(one, drawn), strict=True):
            if not seen:
                survived += 1
                print(
                    f"{mutant.file}:{mutant.line}: {mutant.before}  →  {mutant.after}", flush=True
                )
    print(f"{area}: {len(drawn)} of {len(every)} changes, seed {seed}: {survived} unnoticed")
    while not trees.empty():
        shutil.rmtree(trees.get().parent, ignore_errors=True)


def main() -> None:
    """Run what was typed."""
    words = argparse.ArgumentParser(description=__doc__)
    verbs = words.add_subparsers(dest="verb", required=True)
    mapping = verbs.add_parser("map")
    mapping.add_argument("out", type=Path)
    running = verbs.add_parser("run")
    running.add_argument("area", choices=AREAS)
    running.add_argument("map", type=Path)
    running.add_argument("--number", type=int, default=200)
    running.add_argument("--seed", type=int, default=1)
    given = words.parse_args()
    if given.verb == "map":
        write_map(given.out)
    else:
        run(given.area, given.map, given.number, given.seed)


if __name__ == "__main__":
    main()
