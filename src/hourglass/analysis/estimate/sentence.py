"""The statement of Estimate as a sentence."""

from hourglass.analysis.catalogue.estimators import ESTIMATORS
from hourglass.analysis.catalogue.intervals import INTERVALS
from hourglass.analysis.catalogue.scales import INTERVAL_SCALES
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.group_slots import FORGOTTEN, by_options, group_slots
from hourglass.analysis.shared.sentence import Entry, Option, Sentence, Slot, sentence
from hourglass.analysis.shared.slots import confidence_slot, method_slot, times_slot
from hourglass.cohort.followup import Cohort


def estimate_sentence(cohort: Cohort, statement: EstimateStatement) -> Sentence:
    """The statement in words."""
    unit = cohort.statement.unit
    groups = group_slots(cohort, statement, _by_slot(cohort, statement))
    optional = (*groups.optional, _start(statement, unit), _limit(statement, unit))
    filled = {slot.id: slot for slot in optional if slot.state == "filled"}
    parts: list[str | Slot] = [
        f"Estimate the share of {cohort.rows_are} free of {cohort.statement.event_name}, for ",
        *groups.parts,
    ]
    if "start" in filled:
        parts += [", given survival to ", filled["start"], f" {unit}"]
    parts += [
        ", with ",
        *_intervals(statement),
        ", by ",
        method_slot("estimator", "Estimator", ESTIMATORS, statement.estimator),
        ", read at ",
        times_slot(statement.times, unit),
        *([f" {unit}"] if statement.times else []),
    ]
    if "limit" in filled:
        parts += [", restricted mean survival time to ", filled["limit"], f" {unit}"]
    parts.append(".")
    for slot in (*(slot for slot in optional if slot.id not in filled), _ignoring(statement)):
        parts += [" ", slot]
    return sentence(*parts)


def _by_slot(cohort: Cohort, statement: EstimateStatement) -> Slot:
    everyone = Option(
        label=f"all {cohort.rows_are}",
        note="one curve",
        field="",
        value=statement.model_copy(update={"by": None, **FORGOTTEN}).model_dump(mode="json"),
        chosen=statement.by is None,
    )
    named = f"all {cohort.rows_are}" if statement.by is None else f"each group of {statement.by}"
    return Slot(
        id="by", label=named, title="Curves for", options=[everyone, *by_options(cohort, statement)]
    )


def _start(statement: EstimateStatement, unit: str) -> Slot:
    written = "" if statement.start is None else formatting.plain(statement.start)
    return Slot(
        id="start",
        label=written or "Add given survival to",
        title="Given survival to",
        state="filled" if written else "add",
        entry=Entry(kind="number", field="start", label=f"Survival to, in {unit}", value=written),
        options=[
            Option(
                label="from the beginning",
                note="everybody counts",
                field="start",
                value=None,
                chosen=not written,
            )
        ],
    )


def _intervals(statement: EstimateStatement) -> list[str | Slot]:
    kind = method_slot("intervals", "Intervals", INTERVALS, statement.intervals)
    scale = method_slot("scale", "Scale of intervals", INTERVAL_SCALES, statement.scale)
    level = confidence_slot(statement.confidence)
    if not INTERVALS[statement.intervals].limits_drawn:
        # What is not drawn is still read: medians and tables keep their limits.
        return [kind, " (limits in tables: ", level, " on the ", scale, " scale)"]
    return [level, " ", kind, " on the ", scale, " scale"]


def _limit(statement: EstimateStatement, unit: str) -> Slot:
    written = "" if statement.limit is None else formatting.plain(statement.limit)
    return Slot(
        id="limit",
        label=written or "Add restricted mean survival time",
        title="Restricted mean survival time to",
        state="filled" if written else "add",
        entry=Entry(
            kind="number",
            field="limit",
            label=f"Restricted mean survival time to, in {unit}",
            value=written,
        ),
        options=[
            Option(
                label="the shortest group's follow-up",
                note="as far as every group is followed",
                field="limit",
                value=None,
                chosen=not written,
            )
        ],
    )


def _ignoring(statement: EstimateStatement) -> Slot:
    shown = statement.ignoring
    return Slot(
        id="ignoring",
        label="What ignoring censoring would have given is shown"
        if shown
        else "Add what ignoring censoring would have given",
        title="What ignoring censoring would have given",
        state="add",
        options=[
            Option(label=label, note=note, field="ignoring", value=value, chosen=value == shown)
            for label, note, value in (
                ("beside the right figures", "the wrong ones, and why they are wrong", True),
                ("not shown", "the right figures alone", False),
            )
        ],
    )
