"""Whatever is stated of whatever data, each part that is offered and each figure that opens answers."""

import json
import math
import random
import re

import pytest

from hourglass.analysis.catalogue.estimators import ESTIMATORS
from hourglass.analysis.catalogue.scales import INTERVAL_SCALES
from hourglass.analysis.catalogue.ties import TIE_METHODS
from hourglass.analysis.catalogue.time_functions import TIME_FUNCTIONS
from hourglass.analysis.catalogue.weights import WEIGHTS
from hourglass.analysis.check.statement import RESIDUAL_KEYS
from hourglass.analysis.check.weighed import WEIGHED
from hourglass.analysis.registry import STAGES
from hourglass.analysis.shared.curve_form import INTERVALS
from hourglass.cohort.followup import Cohort, form_cohort
from making import table, timed
from stages import shown

NUMBERS, CATEGORIES = ("x", "y", "z", "k", "e"), ("g", "h", "y", "k", "gone")
FORMS = {
    "category": CATEGORIES,
    "trend": ("y", "g", "h"),
    "number": NUMBERS,
    "doubling": NUMBERS,
    "polynomial": NUMBERS,
    "spline": NUMBERS,
}
SHOWN_OF_EACH = 2
"""Figures of a kind that are opened, of those that a result offers."""
SLOW = {"model/means", "check/optimism", "compare/medians"}


class Chosen:
    """Data and statements drawn by a seed."""

    def __init__(self, seed):
        self.draw = random.Random(seed)
        self.late, self.several = self.draw.random() < 0.3, self.draw.random() < 0.25

    def one(self, *of):
        return self.draw.choice(of)

    def cohort(self):
        size, ties, scale = (
            self.one(1, 2, 5, 15, 40, 90),
            self.one(1, 5, 50),
            self.one(1, 1e-3, 1e5),
        )
        events, others = self.one(0, 0.05, 0.3, 0.6, 1), self.one(0, 0, 0.2)
        levels = self.one("a", "ab", "abc", "abcdef")
        lines = ["t,s,g,h,x,y,z,e,id,k"]
        for k in range(size):
            time = math.ceil(self.draw.random() * ties * 3) / ties * 3 * scale
            ended = 1 if self.draw.random() < events else 2 if self.draw.random() < others else 0
            entry = f"{time * self.draw.random() * 0.9:.6g}" if self.late else ""
            cells = [
                f"{time:.8g}", ended, self.one(*levels) if self.draw.random() > 0.05 else "",
                self.one("u", "v"), f"{self.draw.gauss(50, 10):.2f}" if self.draw.random() > 0.05 else "",
                self.draw.randint(0, 4), self.one(1, 1, self.draw.random() * 1e6), entry,
                f"p{k // 2 if self.several else k}", 7,
            ]  # fmt: skip
            lines.append(",".join(map(str, cells)))
        late, subject = "e" if self.late else None, "id" if self.several else None
        return form_cohort(table("\n".join(lines) + "\n"), timed(late_entry=late, subject=subject))

    def term(self):
        kind = self.one(*FORMS)
        term = {"kind": kind, "column": self.one(*FORMS[kind])}
        if kind == "spline" and self.draw.random() < 0.3:
            term["at_values"] = sorted(self.draw.sample(range(30, 70), 3))
        if self.draw.random() < 0.15:
            function = self.one(*TIME_FUNCTIONS)
            periods = {"kind": "periods", "ends": [self.one(1, 3, 6)]}
            term["changing"] = self.one(periods, {"kind": "along", "function": function})
        return term

    def model(self):
        terms = {t["column"]: t for t in (self.term() for _ in range(self.one(0, 1, 1, 2, 3)))}
        steady = [name for name, t in terms.items() if "changing" not in t]
        product = []
        if len(steady) > 1:
            product.append({"kind": "product", "column": steady[0], "partner": steady[1]})
        return {
            "terms": [*terms.values(), *self.one([], product)],
            "ties": self.one(*TIE_METHODS),
            "penalised": self.draw.random() < 0.2,
            "strata": self.one([], [], ["h"], ["g"], ["h", "k"]),
            "intervals": self.one("standard error", "standard error", "profile"),
            "robust": self.one(None, None, {"kind": "subject"}, {"kind": "column", "column": "h"}),
            "cause": self.one("", "", "", "2"),
            "left_out": self.one([], [], [1], [2, 3]),
        }

    def bodies(self):
        planned = {"letter": "A", "model": self.model(), "planned": True}
        other = {"column": "g", "value": "a"}
        return [
            {
                "stage": "estimate",
                "version": 3,
                "by": self.one(None, "g", "h"),
                "intervals": self.one(*INTERVALS),
                "scale": self.one(*INTERVAL_SCALES),
                "estimator": self.one(*ESTIMATORS),
                "times": self.one([], [1, 3, 1e6]),
                "limit": self.one(None, 5, 1e6),
                "crossed": self.one(None, "y"),
                "start": self.one(None, None, 2),
                "bandwidth": self.one(None, 1),
                "ignoring": self.one(True, False),
            },
            {
                "stage": "compare",
                "version": 4,
                "by": self.one("g", "h", "y", "x", None),
                "each": self.one(True, False, False),
                "weight": self.one(*WEIGHTS),
                "within": self.one([], ["h"], ["y"]),
                "ordered": self.one(True, False),
                "margin": self.one(None, {"size": 0.1, "at": 5}),
            },
            {
                "stage": "model",
                "version": 4,
                **self.model(),
                "beside": self.one("", "A"),
                "kept": self.one([], [planned]),
                "subgroups": self.one([], ["h"], ["g", "y"]),
                "times": self.one([], [1, 3], [0, 1e7]),
                "profiles": self.one([], [{"values": []}], [{"values": []}, {"values": [other]}]),
                "adjusted": self.one("", "g", "h"),
                "candidates": self.one([], ["x", "y", "g"], ["k", "z"]),
            },
            {
                "stage": "check",
                "version": 3,
                "question": self.one(*WEIGHED),
                "time_function": self.one(*TIME_FUNCTIONS),
                "variable": self.one("", "x", "z", "g"),
                "residual": self.one(*RESIDUAL_KEYS),
                "against": self.one("", "x", "g", "t"),
                "together": self.one("", "id", "h"),
                "time": self.one(None, 1, 1e6),
            },
        ]


def dumped(value):
    """What is sent of it, which holds no number that is none."""
    text = json.dumps(value.model_dump(mode="json"), allow_nan=False)
    bad = re.search(r"\b(nan|inf|NaN|Infinity)\b", text)
    assert bad is None, text[max(0, bad.start() - 80) : bad.end() + 40]
    return json.loads(text)


def everywhere(value):
    """Every object in what is sent."""
    if isinstance(value, dict):
        yield value
    for inner in (
        value.values() if isinstance(value, dict) else value if isinstance(value, list) else ()
    ):
        yield from everywhere(inner)


def opened(sent):
    """The workings that what is sent offers, a few of each figure."""
    found = {}
    for place in everywhere(sent):
        of = place.get("workings")
        if isinstance(of, dict) and set(of) == {"figure", "about"}:
            found.setdefault(of["figure"], {})[json.dumps(of["about"], sort_keys=True)] = of[
                "about"
            ]
    return [
        (figure, about)
        for figure, all_ in found.items()
        for about in list(all_.values())[:SHOWN_OF_EACH]
    ]


def put(into, path, value):
    """A copy of a statement with one place set, as the page does it."""
    if not path:
        return value
    first, *rest = path
    if isinstance(into, list):
        copy = [*into, *[{}] * (int(first) + 1 - len(into))]
        copy[int(first)] = put(copy[int(first)], rest, value)
        return copy
    return {**into, first: put(into.get(first) or {}, rest, value)}


def drawn(seed):
    """A cohort and the statements of all stages."""
    chosen = Chosen(seed)
    cohort = chosen.cohort()
    stated = {b["stage"]: STAGE[b["stage"]].statement.read(b) for b in chosen.bodies()}
    if not isinstance(cohort, Cohort):
        pytest.skip("the rows make no cohort")
    return chosen, cohort, stated


@pytest.mark.parametrize("seed", [*range(20)])
def test_what_a_slot_offers_can_be_chosen(seed):
    chosen, cohort, stated = drawn(seed)
    for name, statement in stated.items():
        stage = STAGE[name]
        sentence = dumped(shown(name, cohort, {need: stated[need] for need in stage.needs}))[
            "sentence"
        ]
        slots = [part["slot"] for part in sentence["parts"] if part.get("slot")]
        options = [option for slot in slots for option in slot["options"]]
        body = statement.model_dump(mode="json")
        for option in chosen.draw.sample(options, min(SHOWN_OF_EACH, len(options))):
            path, value = option["field"].split("."), option["value"]
            if option["adds"]:
                value = [*body[option["field"]], value]
            changed = {**body, **value} if option["field"] == "" else put(body, path, value)
            other = {**stated, name: stage.statement.read(changed)}
            needed = {need: other[need] for need in stage.needs}
            assert dumped(shown(name, cohort, needed))["headline"], option["label"]


@pytest.mark.parametrize("seed", [*range(40)])
def test_what_is_offered_answers(seed):
    _, cohort, stated = drawn(seed)
    for name, statement in stated.items():
        stage = STAGE[name]
        needed = {need: stated[need] for need in stage.needs}
        found = [dumped(shown(name, cohort, needed))]
        assert found[0]["headline"]
        offered = {
            place["part"]
            for place in everywhere(found[0])
            if "blocks" in place and place.get("part")
        }
        for key in sorted(offered):
            if f"{name}/{key}" not in SLOW:
                found.append(dumped(shown(name, cohort, needed, part=key)))
        for figure, about in opened(found):
            worked = next(one for one in stage.workings if one.key == figure)
            timed_in = {"t": 3.0} if "t" in worked.about.model_fields else {}
            sheet = worked.work(cohort, needed, worked.about.model_validate({**timed_in, **about}))
            assert dumped(sheet.page())["title"], statement


STAGE = {stage.name: stage for stage in STAGES}
