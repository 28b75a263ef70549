"""The comparison as a sentence."""

from hourglass.analysis.catalogue.adjustments import ADJUSTMENTS
from hourglass.analysis.catalogue.weights import WEIGHTS
from hourglass.analysis.compare.groups import contrast_of
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.compare.variable_slots import order_slot, variable_parts
from hourglass.analysis.compare.variables import chosen_variables
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.curve_form import CurveForm
from hourglass.analysis.shared.group_slots import FORGOTTEN, by_options, group_slots, reference_slot
from hourglass.analysis.shared.grouping import grouped, is_split
from hourglass.analysis.shared.groups import Groups, categories
from hourglass.analysis.shared.sentence import Entry, Option, Sentence, Slot, sentence
from hourglass.analysis.shared.slots import level_slot, method_slot, taken_in_or_out
from hourglass.cohort.followup import Cohort
from hourglass.core.errors import NotEstimableError

EACH = "each variable in turn"


def compare_sentence(cohort: Cohort, statement: CompareStatement, form: CurveForm) -> Sentence:
    """The statement in words; ``form`` is that of the study's curves."""
    start = f"Compare time to {cohort.statement.event_name} by "
    by = _by_slot(cohort, statement)
    if statement.each:
        return _in_turn(cohort, statement, start, by)
    try:
        if statement.by is None:
            return sentence(start, by, ".")
        groups = grouped(cohort, statement)
    except NotEstimableError:
        return sentence(start, by, ".")
    made = group_slots(cohort, statement, by)
    parts: list[str | Slot] = [start, *made.parts]
    if statement.crossed is None and not is_split(cohort, statement):
        parts += [", against ", reference_slot(cohort, statement, groups)]
    else:
        parts.append(f", against {groups.labels[0]}")
    several = len(groups.labels) > 2
    if several:
        parts += [", showing the difference for ", _contrast_slot(groups, statement)]
    parts += [", by the ", method_slot("weight", "Test", WEIGHTS, statement.weight), " test"]
    own = _optional(cohort, statement, groups, several=several)
    for slot in own:
        if slot.state == "filled":
            parts += [LEADS[slot.id], slot]
            if slot.id == "pairs":
                parts += [", adjusted by ", _adjustment_slot(statement)]
    parts += [", with ", level_slot(statement.confidence, form.confidence), " intervals."]
    for slot in (*made.optional, *own):
        if slot.state == "add":
            parts += [" ", slot]
    return sentence(*parts)


def _in_turn(cohort: Cohort, statement: CompareStatement, start: str, by: Slot) -> Sentence:
    """Each variable in turn, in place of one comparison."""
    within = _within_slot(cohort, statement)
    test = method_slot("weight", "Test", WEIGHTS, statement.weight)
    parts: list[str | Slot] = [start, by, *variable_parts(cohort, statement)]
    parts += [", by the ", test, " test"]
    if statement.within:
        parts += [LEADS["within"], within]
    parts += [
        ", adjusted by ",
        _adjustment_slot(statement),
        ", ordered ",
        order_slot(statement),
        ".",
    ]
    if not statement.within:
        parts += [" ", within]
    return sentence(*parts)


LEADS = {"within": ", within ", "ordered": ", ", "pairs": ", ", "margin": ", not worse than "}
"""What stands before an optional slot that is filled."""


def _optional(
    cohort: Cohort, statement: CompareStatement, groups: Groups, *, several: bool
) -> list[Slot]:
    slots = [_within_slot(cohort, statement)]
    if several:
        slots += [_ordered_slot(statement, groups), _pairs_slot(statement, groups)]
    return [*slots, _margin_slot(cohort, statement)]


def _by_slot(cohort: Cohort, statement: CompareStatement) -> Slot:
    known = statement.each or (statement.by is not None and cohort.table.has(statement.by))
    # Written out, so that a threshold can be typed for each number.
    variables = chosen_variables(cohort, statement)
    each = {"each": True, "by": None, "variables": variables, **FORGOTTEN}
    in_turn = Option(
        label=EACH,
        note="small multiples ordered by evidence, p adjusted",
        field="",
        value=statement.model_copy(update=each).model_dump(mode="json"),
        chosen=statement.each,
    )
    one = statement.model_copy(update={"each": False})
    return Slot(
        id="by",
        label=EACH if statement.each else statement.by or "a category",
        title="Compare by",
        state="filled" if known else "open",
        options=[*by_options(cohort, one), in_turn],
    )


def _contrast_slot(groups: Groups, statement: CompareStatement) -> Slot:
    chosen = groups.labels[contrast_of(groups, statement.contrast)]
    options = [
        Option(label=level, field="contrast", value=level, chosen=level == chosen)
        for level in groups.labels[1:]
    ]
    return Slot(id="contrast", label=chosen, title="Difference shown for", options=options)


def _within_slot(cohort: Cohort, statement: CompareStatement) -> Slot:
    """Strata: choosing a category adds it, or takes it out again."""
    options = [
        Option(
            label="no strata",
            note="all rows together",
            field="within",
            value=[],
            chosen=not statement.within,
        )
    ]
    for name in categories(cohort):
        if name in (statement.by, statement.crossed):
            continue
        inside = name in statement.within
        value = [w for w in statement.within if w != name] if inside else [*statement.within, name]
        if len(value) > 3:
            continue
        options.append(
            taken_in_or_out(
                name,
                "within",
                list(value),
                "sums are taken within its levels, then added up",
                inside=inside,
            )
        )
    named = [f"strata of {formatting.listed(list(statement.within))}"] if statement.within else []
    return Slot(
        id="within",
        label=named[0] if named else "Add strata",
        title="Strata",
        state="filled" if named else "add",
        options=options,
    )


def _ordered_slot(statement: CompareStatement, groups: Groups) -> Slot:
    scores = statement.scores or tuple(range(1, len(groups.labels) + 1))
    shown = ", ".join(formatting.plain(float(s)) for s in scores)
    return Slot(
        id="ordered",
        label=f"in order with scores {shown}" if statement.ordered else "Add an order",
        title="Order of the groups",
        state="filled" if statement.ordered else "add",
        entry=Entry(
            kind="scores",
            field="scores",
            label=f"Scores of {', '.join(groups.labels)}",
            value=shown,
        )
        if statement.ordered
        else None,
        options=[
            Option(
                label=label,
                note=note,
                field="ordered",
                value=value,
                chosen=value == statement.ordered,
            )
            for label, note, value in (
                (
                    "in their order",
                    "a test of trend on 1 degree of freedom beside the planned one",
                    True,
                ),
                ("in no order", "the planned test alone", False),
            )
        ],
    )


def _pairs_slot(statement: CompareStatement, groups: Groups) -> Slot:
    choices = (
        ("none", "no pairs", "all groups at once"),
        (
            "all",
            "all pairs",
            formatting.count(len(groups.labels) * (len(groups.labels) - 1) // 2, "tests"),
        ),
        (
            "reference",
            f"each against {groups.labels[0]}",
            formatting.count(len(groups.labels) - 1, "tests"),
        ),
    )
    return Slot(
        id="pairs",
        label=next(label for key, label, _ in choices if key == statement.pairs)
        if statement.pairs != "none"
        else "Add pairs",
        title="Pairs of groups",
        state="add" if statement.pairs == "none" else "filled",
        options=[
            Option(label=label, note=note, field="pairs", value=key, chosen=key == statement.pairs)
            for key, label, note in choices
        ],
    )


def _adjustment_slot(statement: CompareStatement) -> Slot:
    return method_slot("adjustment", "Adjustment of p-values", ADJUSTMENTS, statement.adjustment)


def _margin_slot(cohort: Cohort, statement: CompareStatement) -> Slot:
    margin, unit = statement.margin, cohort.statement.unit
    written = ""
    if margin is not None:
        at = formatting.stated_time(margin.at, unit)
        written = f"{formatting.points(-margin.size)} percentage points at {at}"
    return Slot(
        id="margin",
        label=written or "Add a non-inferiority margin",
        title="Margin: how much worse is still not worse",
        state="filled" if written else "add",
        entry=Entry(
            kind="pair",
            field="margin",
            label=f"Percentage points, and at which time in {unit}",
            value="" if margin is None else f"{100 * margin.size:g}, {margin.at:g}",
        ),
        options=[
            Option(
                label="no margin",
                note="a test of difference",
                field="margin",
                value=None,
                chosen=not written,
            )
        ],
    )
