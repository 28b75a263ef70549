"""Made-up studies that differ in what can go wrong with a sentence, as plans and their data."""

import random
from collections.abc import Mapping

from hourglass.cli.run_plan import Made, made_of
from hourglass.study.plans.document import StudyPlan

MEANINGS = {"1": {"meaning": "event"}, "0": {"meaning": "censored"}}
COMPETING = {**MEANINGS, "2": {"meaning": "competing", "name": "death"}}
LONG_NAMES = (
    "standard drops, four times a day for six months",
    "extended drops with tapering to once a week",
    "no drops after the third month because of pressure",
    "systemic suppression, started before the operation",
    "systemic suppression, started after the first episode of rejection",
    "combined treatment under the supervision of the regional centre",
    "treatment unknown or not recorded in the register",
    "Nachbeobachtungsgruppe",
)
ARM = "treatment at discharge from hospital"
EVERY = ("estimate", "compare", "model", "check")
TERMS = [{"kind": "category", "column": "arm"}, {"kind": "number", "column": "age", "unit": 10}]


def follow_up(**changes: object) -> dict[str, object]:
    """A follow-up statement for columns t and s."""
    return {
        "clock": {"kind": "duration", "column": "t"},
        "outcome": "s",
        "meanings": MEANINGS,
        "unit": "months",
        "rows_are": "grafts",
        "event_name": "rejection",
        "subject": "id",
        **changes,
    }


def plan(
    follow: Mapping[str, object], stages: Mapping[str, Mapping[str, object]], **changes: object
) -> StudyPlan:
    """A plan that opens some stages, each with what it states."""
    kinds = {name: STATEMENT_VERSIONS[name] | dict(body) for name, body in stages.items()}
    analyses = [{"stage": name, "statement": body} for name, body in kinds.items()]
    given = {"name": "A made-up study", "dated": "2026-01-02", "follow_up": follow, **changes}
    return StudyPlan.model_validate({**given, "analyses": analyses})


STATEMENT_VERSIONS: Mapping[str, dict[str, object]] = {
    "estimate": {"version": 4},
    "compare": {"version": 5},
    "model": {"version": 4},
    "check": {"version": 4},
}


def rows(
    n: int,
    groups: tuple[str, ...],
    *,
    arm: str = "arm",
    events: tuple[str, ...] = ("1",),
    seed: int = 3,
    entry: bool = False,
    count: bool = False,
    visits: bool = False,
) -> str:
    """Comma-separated rows, drawn by a seed: follow-up t, outcome s, a group, an age and a centre."""
    draw = random.Random(seed)
    head = ["id", "t", "s", arm, "age", "centre"]
    head += ["since"] * (entry or visits) + ["n"] * count
    lines = [head]
    for k in range(n):
        group = draw.randrange(len(groups))
        time, end = draw.expovariate(0.03 / (1 + group / 4)), draw.uniform(6, 90)
        status = draw.choice(events) if events and time < end else "0"
        line = [
            f"G-{k:03}",
            f"{min(time, end) + 0.1:.1f}",
            status,
            f'"{groups[group]}"',
            str(draw.randint(20, 90)),
            draw.choice(["Aldermouth", "Brackwell-on-the-Water", "Eskdene"]),
        ]
        line += [f"{draw.uniform(0, min(time, end) / 2):.2f}"] * entry + [
            str(draw.randint(1, 4))
        ] * count
        if visits:
            half = f"{(min(time, end) + 0.1) / 2:.2f}"
            lines += [[line[0], half, "0", *line[3:], "0"], [*line, half]]
        else:
            lines.append(line)
    return "\n".join(",".join(line) for line in lines) + "\n"


def _all(**compare: object) -> dict[str, dict[str, object]]:
    return {
        "estimate": {"times": [12, 36]},
        "compare": {"by": "arm", **compare},
        "model": {"terms": TERMS},
        "check": {},
    }


TWO = ("standard", "extended")
STUDIES: Mapping[str, tuple[StudyPlan, str]] = {
    "two groups, everything opened": (plan(follow_up(), _all()), rows(200, TWO)),
    "one group": (plan(follow_up(), {"estimate": {}}), rows(60, ("all",))),
    "nothing opened": (plan(follow_up(), {}), rows(30, TWO)),
    "nothing checked": (
        plan(follow_up(), {"compare": {"by": "arm"}, "model": {"terms": TERMS}}),
        rows(80, TWO),
    ),
    "five groups with long names": (
        plan(
            follow_up(),
            {
                "estimate": {"times": [12, 24, 36, 60]},
                "compare": {"by": ARM, "pairs": "all"},
                "model": {"terms": [{"kind": "category", "column": ARM}]},
                "check": {},
            },
        ),
        rows(400, LONG_NAMES[:5], arm=ARM),
    ),
    "eight groups with long names": (
        plan(
            follow_up(),
            {
                "estimate": {"times": [12, 24, 36, 60]},
                "compare": {"by": ARM, "pairs": "reference"},
                "model": {"terms": [{"kind": "category", "column": ARM}]},
                "check": {},
            },
        ),
        rows(640, LONG_NAMES, arm=ARM),
    ),
    "no events": (plan(follow_up(), _all()), rows(40, TWO, events=())),
    "an event without a name": (
        plan(follow_up(event_name="the event", rows_are="rows"), _all()),
        rows(90, TWO),
    ),
    "competing causes": (
        plan(follow_up(meanings=COMPETING), _all(pairs="all")),
        rows(240, TWO, events=("1", "2")),
    ),
    "delayed entry": (plan(follow_up(late_entry="since"), _all()), rows(200, TWO, entry=True)),
    "frequency weights": (plan(follow_up(count="n"), _all()), rows(60, TWO, count=True)),
    "several rows a subject": (
        plan(follow_up(several_rows=True, late_entry="since"), _all()),
        rows(80, TWO, visits=True),
    ),
    "an eventless stratum": (
        plan(
            follow_up(),
            {
                "estimate": {},
                "compare": {"by": "arm", "within": ["centre"]},
                "model": {"terms": TERMS, "strata": ["centre"], "robust": {"kind": "subject"}},
                "check": {},
            },
        ),
        rows(60, TWO) + 'G-900,3,0,"standard",40,Wrenlow\nG-901,5,0,"extended",50,Wrenlow\n',
    ),
    "a row without a group": (
        plan(follow_up(), _all()),
        rows(60, TWO) + "G-902,3,1,,40,Aldermouth\n",
    ),
    "each variable in turn": (plan(follow_up(), {"compare": {"each": True}}), rows(120, TWO)),
    "few subjects": (plan(follow_up(), _all()), rows(7, TWO)),
    "one subject": (plan(follow_up(), {"estimate": {}}), rows(1, ("all",))),
    "a landmark and a closing date": (
        plan(follow_up(landmark=6.0, longest=48.0), _all(ordered=True)),
        rows(160, ("none", "some", "many")),
    ),
}


def made(name: str, folder) -> Made:  # type: ignore[no-untyped-def]
    """A made-up study, formed in memory."""
    planned, text = STUDIES[name]
    file = folder / "grafts.csv"
    file.write_text(text, "utf-8")
    found = made_of(planned, file)
    assert isinstance(found, Made), name
    return found
