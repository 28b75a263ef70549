"""The part of the comparison's sentence that states which variables are tested in turn, and how."""

from collections.abc import Sequence

from pydantic import JsonValue

from hourglass.analysis.catalogue.number_splits import NUMBER_SPLITS, THRESHOLD
from hourglass.analysis.compare.statement import CompareStatement, ScreenedVariable
from hourglass.analysis.compare.variables import candidates_of, chosen_variables
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.groups import categories
from hourglass.analysis.shared.sentence import Entry, Option, Slot
from hourglass.analysis.shared.slots import taken_in_or_out
from hourglass.cohort.followup import Cohort

MAX_NAMED = 4
"""Variables that the sentence names; of more their number."""
ORDERS = {"p": "by p", "name": "by name"}


def variable_parts(cohort: Cohort, statement: CompareStatement) -> list[str | Slot]:
    """ ": [all 8 variables], age [in tertiles] and donor_cells [at 2,300]"."""
    chosen, named = chosen_variables(cohort, statement), categories(cohort)
    parts: list[str | Slot] = [": ", _chosen_slot(cohort, chosen)]
    split = [one for one in chosen if one.column not in named]
    for n, one in enumerate(split):
        between = ", with" if n == 0 else " and" if n == len(split) - 1 else ","
        parts += [f"{between} {one.column} ", _split_slot(statement, chosen, one)]
    return parts


def order_slot(statement: CompareStatement) -> Slot:
    """The order in which the variables are shown."""
    options = [
        Option(label=words, field="order", value=key, chosen=key == statement.order)
        for key, words in ORDERS.items()
    ]
    return Slot(
        id="order", label=ORDERS[statement.order], title="Order of the variables", options=options
    )


def _chosen_slot(cohort: Cohort, chosen: Sequence[ScreenedVariable]) -> Slot:
    """The variables: choosing one takes it in, or out again."""
    candidates = candidates_of(cohort)
    there = {one.column: one for one in chosen}
    options = [
        Option(
            label="all variables",
            note=f"{len(candidates)} that can be tested",
            field="variables",
            value=_json([there.get(name, ScreenedVariable(column=name)) for name in candidates]),
            chosen=set(candidates) == set(there),
        )
    ]
    for name in candidates:
        inside = name in there
        if inside and len(there) == 1:
            continue  # none at all would mean all of them
        others = [there[n] for n in there if n != name]
        kept = others if inside else [*others, ScreenedVariable(column=name)]
        options.append(
            taken_in_or_out(name, "variables", _json(kept), "test it, too", inside=inside)
        )
    return Slot(id="variables", label=_named(candidates, there), title="Variables", options=options)


def _named(candidates: Sequence[str], there: dict[str, ScreenedVariable]) -> str:
    if set(candidates) == set(there):
        return f"all {formatting.grouped(len(candidates))} variables"
    if len(there) <= MAX_NAMED:
        return formatting.listed(list(there))
    return f"{len(there)} of {len(candidates)} variables"


def _split_slot(
    statement: CompareStatement, chosen: Sequence[ScreenedVariable], one: ScreenedVariable
) -> Slot:
    """How a number is split; a threshold is typed, where the statement names the variable."""
    stated = statement.variables
    place = stated.index(one) if one in stated else None
    options = [
        Option(
            label=entry.name,
            note=entry.note,
            field="variables",
            value=_json(
                [ScreenedVariable(column=v.column, split=key) if v is one else v for v in chosen]
            ),
            chosen=key == one.way,
        )
        for key, entry in NUMBER_SPLITS.items()
        if key != THRESHOLD
    ]
    return Slot(
        id=f"split-{chosen.index(one)}",
        label=NUMBER_SPLITS[one.way].in_words(one.threshold),
        title=f"How {one.column} is split",
        options=options,
        entry=None
        if place is None
        else Entry(
            kind="value",
            field=f"variables.{place}.threshold",
            label=f"Threshold of {one.column}",
            value="" if one.threshold is None else formatting.plain(one.threshold),
        ),
    )


def _json(variables: Sequence[ScreenedVariable]) -> list[JsonValue]:
    return [one.model_dump(mode="json") for one in variables]
