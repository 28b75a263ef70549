"""Actions: what earlier programs kept becomes them, with sentences of what was decided."""

import json
from typing import get_args

import pytest

from earlier_logs import KEYS, earlier
from hourglass.analysis.prepare.field_words import meanings_in_words
from hourglass.study.actions.action import meet
from hourglass.study.actions.tables import TableAdded, TableRemoved, TableStated, TableStepsSet
from hourglass.study.actions.turns import Done
from hourglass.study.actions.union import ACTIONS
from hourglass.study.actions.upgrading import EarlierEntry, action_of
from hourglass.study.archive import ArchivedStudy, copied
from hourglass.study.commands.undoing import redo, undo
from hourglass.study.in_memory import InMemory
from hourglass.study.plans.document import StudyPlan, plan_of_study
from hourglass.study.snapshot_json import to_json
from hourglass.study.study import StudySnapshot

TREES = [
    "Study begun: Trees",
    "File read: trees.csv",
    "File read otherwise: read as UTF-8, comma",
    "Unit: days; Outcome: s; Codes: felled is the event; lost and standing are censored",
    "s is blank in 1 row: set aside",
    "age gives away who had the event: kept as it is",
    "The table's layout",
    "Set aside: twice (row 3)",
    "Set aside: twice, with rows 3, 4 (before 3)",
    "arm: “a” is called “thinned”",
    "arm: “b” is called “not thinned”",
    "Step moved from place 1 to 3: Set aside: blank outcome",
    "Step switched off: Set aside: blank outcome",
    "Step switched on: Set aside: blank outcome",
    "Curves for: all subjects → each group of arm; Read at: 10, 20",
    "Level of intervals: 95% → 90%",
    "arm: compare with not thinned",
    "Comparison by: arm; Test: log-rank → Gehan–Breslow",
    "Terms: no term → age per 1",
    "Model A kept: age per 1 (alone)",
    "Title of the report: Trees and time; Width of figures: page",
    "Words of the report at rows/text: “Forty trees.”",
    "Accepted: few events",
    "Another view begun: By arm",
    "View called “By treatment”; view moved to place 4",
    "View deleted: By treatment",
    "Printed figure: width 85",
    "Tracks shown: survival, hazard",
    "How arm: thinned is drawn: tone 3",
    "Study renamed: Trees → Trees by the river",
    "Plan sealed: SHA-256 dd6506f72194c0fecd685041fe20e4a8d8964378e9174c7542bc122893509b2e",
    "Withdrawn: Set aside: twice, with rows 3, 4 (before 3)",
    "Data extract in use: trees 2.csv",
    "Steps applied from a document: 3",
    "Set aside: blank outcome (row 41)",
    "By the plan “Trees by the river”",
    "Steps applied from a document: 3",
    "Set aside: blank outcome (row 41)",
    "The event is called: “the event” → “felling”; Nobody is followed for longer than: 50",
    "Function of time: 1 − survival → the logarithm of time",
    "Undone: Function of time: 1 − survival → the logarithm of time",
    "Redone: Function of time: 1 − survival → the logarithm of time",
    "Undone: Function of time: 1 − survival → the logarithm of time",
]


def without_words(document):
    """The same document, the words of its entries put out of sight."""
    hidden = json.loads(json.dumps(document))
    for entry in hidden["log"]:
        entry["decision"]["sentence"] = "?"
    return hidden


def of(document):
    repository = InMemory()
    return repository, copied(repository, ArchivedStudy.model_validate(document))


def test_an_earlier_log_states_what_was_decided():
    _, trees = of(earlier("trees"))
    assert [d.sentence for d in trees.decisions] == TREES


@pytest.mark.parametrize("key", KEYS)
def test_what_was_decided_is_found_without_the_words_of_then(key):
    kinds = [d.action.kind for d in of(earlier(key))[1].decisions]
    assert [d.action.kind for d in of(without_words(earlier(key)))[1].decisions] == kinds
    assert "earlier" not in kinds


@pytest.mark.parametrize("key", KEYS)
def test_an_earlier_study_goes_back_to_its_beginning_and_on_again(key):
    repository, now = of(earlier(key))
    entries = earlier(key)["log"]
    assert to_json(now.snapshot)["follow_up"] == entries[-1]["decided"]["follow_up"]
    plans, study = [plan_of_study(now)], now
    while study.history.undo is not None:
        study = undo(repository, study)
        plans.append(plan_of_study(study))
    assert not study.steps
    for plan in plans[-2::-1]:
        study = redo(repository, study)
        assert plan_of_study(study).model_copy(update={"dated": plan.dated}) == plan


def test_a_plan_that_was_sealed_before_decisions_were_actions_keeps_its_seal():
    _, trees = of(earlier("trees"))
    plan = StudyPlan.model_validate(trees.snapshot.sealed)
    assert plan.decisions
    assert not plan.seal_broken
    changed = plan.decisions[0].model_copy(update={"choice": "another"})
    assert plan.model_copy(update={"decisions": (changed, *plan.decisions[1:])}).seal_broken


def test_an_entry_of_no_known_kind_keeps_its_words():
    old = EarlierEntry(stage="prepare", about="?", choice="set", sentence="Statement changed")
    kept = action_of(old, StudySnapshot(name="a"), StudySnapshot(name="a"), {}, {})
    assert (kept.kind, kept.sentence, kept.withdrawable) == ("earlier", "Statement changed", False)


def test_every_action_of_a_log_comes_back_from_json_and_states_something():
    seen = set()
    for key in KEYS:
        for d in of(earlier(key))[1].decisions:
            assert ACTIONS.validate_json(ACTIONS.dump_json(d.action)) == d.action
            assert d.sentence.strip(": ")
            seen.add(type(d.action))
    of_tables = {TableAdded, TableStated, TableStepsSet, TableRemoved}  # later than the kept logs
    kinds = set(get_args(get_args(Done)[0])) - of_tables
    assert {kind.__name__ for kind in kinds - seen} <= {
        "Earlier", "ExtractReceived", "ExtractRefused", "StudyBegun",
    }  # fmt: skip


def test_parts_meet_where_one_holds_the_other():
    everything, steps, one, other = (
        frozenset([path]) for path in ((), ("steps",), ("steps", "4"), ("steps", "5"))
    )
    assert meet(everything, one)
    assert meet(steps, one)
    assert not meet(one, other)
    assert not meet(frozenset(), everything)


def test_codes_are_named_with_what_they_mean():
    words = meanings_in_words(
        {
            "felled": {"meaning": "event", "name": ""},
            "lost": {"meaning": "censored", "name": ""},
            "standing": {"meaning": "censored", "name": "still standing"},
            "": None,
        }
    )
    assert words == (
        "felled is the event; lost and standing (still standing) are censored; blank has no meaning"
    )
