"""Slots of what is requested beyond the ratios: predictions, adjusted curves, subgroups, candidates."""

from pydantic import JsonValue

from hourglass.analysis.model.new_term import new_term
from hourglass.analysis.model.profiles import columns_of_model, levels_offered, whom
from hourglass.analysis.model.reading_times import reading_times
from hourglass.analysis.model.statement import MAX_PROFILES, ModelStatement, Profile, ProfileValue
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.groups import categories, numbers
from hourglass.analysis.shared.sentence import Option, Slot
from hourglass.analysis.shared.slots import taken_out, times_slot
from hourglass.cohort.followup import Cohort


def beyond_slots(cohort: Cohort, statement: ModelStatement) -> tuple[list[str | Slot], list[Slot]]:
    """What is requested in a second sentence, and what may be added to it."""
    if not statement.terms:
        return [], []
    parts: list[str | Slot] = []
    optional: list[Slot] = []
    if statement.profiles:
        parts.append(" Predicted for ")
        for k in range(len(statement.profiles)):
            parts += [" and for " if k else "", _profile_slot(cohort, statement, k)]
        parts += [
            ", read at ",
            times_slot(reading_times(cohort, statement), cohort.statement.unit),
            ".",
        ]
    if len(statement.profiles) < MAX_PROFILES:
        optional.append(_add_profile(cohort, statement))
    for slot, before in (
        (_adjusted_slot(cohort, statement), " Curves adjusted by "),
        (
            _subgroups_slot(cohort, statement),
            f" Also {statement.terms[0].column} within the levels of ",
        ),
        (_candidates_slot(cohort, statement), " Candidates: "),
    ):
        if slot.state == "add":
            if slot.options:
                optional.append(slot)
        else:
            parts += [before, slot, "."]
    return parts, optional


def _dumped(profiles: list[Profile]) -> JsonValue:
    return [one.model_dump(mode="json") for one in profiles]


def _profile_slot(cohort: Cohort, statement: ModelStatement, k: int) -> Slot:
    model, profile = statement.hazards_model, statement.profiles[k]
    person = whom(cohort, model, profile)
    others = [p for n, p in enumerate(statement.profiles) if n != k]
    options = []
    for name in columns_of_model(model):
        if not cohort.table.has(name):
            continue
        for value in levels_offered(cohort, model, name):
            stated = {**{n: person.values[n] for n in person.stated}, name: value}
            changed = Profile(
                values=tuple(ProfileValue(column=n, value=v) for n, v in stated.items())
            )
            options.append(
                Option(
                    label=f"{name} {value}",
                    field=f"profiles.{k}",
                    value=changed.model_dump(mode="json"),
                    chosen=name in person.stated and person.values[name] == value,
                )
            )
    take_out = Option(label="Take this profile out", field="profiles", value=_dumped(others))
    return Slot(
        id=f"profile-{k}",
        label=person.label,
        title=f"Profile {k + 1}: values; the others are usual",
        options=[*options, take_out],
    )


def _add_profile(cohort: Cohort, statement: ModelStatement) -> Slot:
    there = list(statement.profiles)
    usual = _dumped([*there, Profile()])
    note = "medians and commonest levels"
    options = [Option(label="All values usual", note=note, field="profiles", value=usual)]
    for term in statement.terms:
        if term.against_reference and cohort.table.has(term.column):
            levels = levels_offered(cohort, statement.hazards_model, term.column)
            profiles = [
                Profile(values=(ProfileValue(column=term.column, value=v),)) for v in levels
            ]
            if len(there) + len(profiles) <= MAX_PROFILES:
                options.append(
                    Option(
                        label=f"Each level of {term.column}",
                        note=formatting.listed(levels),
                        field="profiles",
                        value=_dumped([*there, *profiles]),
                    )
                )
    return Slot(
        id="add-profile",
        label="Add predictions",
        title="Add predictions for",
        state="add",
        options=options,
    )


def _adjusted_slot(cohort: Cohort, statement: ModelStatement) -> Slot:
    own = [t.column for t in statement.terms if t.against_reference]
    chosen = statement.adjusted if statement.adjusted in own else ""
    options = [
        Option(
            label=name,
            note="everybody put at each level in turn",
            field="adjusted",
            value=name,
            chosen=name == chosen,
        )
        for name in own
    ]
    if chosen:
        options.append(Option(label="No adjusted curves", field="adjusted", value=""))
    return Slot(
        id="adjusted",
        label=chosen or "Add adjusted curves",
        title="Curves adjusted for the other terms, by",
        state="filled" if chosen else "add",
        options=options if len(statement.terms) > 1 or chosen else [],
    )


def _subgroups_slot(cohort: Cohort, statement: ModelStatement) -> Slot:
    chosen = list(statement.subgroups)
    main = statement.terms[0].column
    names = dict.fromkeys([*categories(cohort), *numbers(cohort)])
    options = taken_out("subgroups", chosen)
    options += [
        Option(
            label=name,
            note="its levels, or tertiles of a number",
            field="subgroups",
            value=name,
            adds=True,
        )
        for name in names
        if name not in chosen and name != main and len(chosen) < 12
    ]
    return Slot(
        id="subgroups",
        label=formatting.listed(chosen) or "Add subgroups",
        title=f"{main} within the levels of",
        state="filled" if chosen else "add",
        options=options,
    )


def _candidates_slot(cohort: Cohort, statement: ModelStatement) -> Slot:
    chosen = list(statement.candidates)
    able = [
        c.name
        for c in cohort.table.columns
        if c.name not in cohort.statement.spent and new_term(cohort, c) is not None
    ]
    options = taken_out("candidates", chosen)
    rest = [name for name in able if name not in chosen]
    if rest and len(able) <= 60:
        options.append(
            Option(
                label="All columns", note=f"{len(able)} candidates", field="candidates", value=able
            )
        )
    options += [Option(label=name, field="candidates", value=name, adds=True) for name in rest]
    label = formatting.listed(chosen[:3]) + (
        f" and {len(chosen) - 3} more" if len(chosen) > 3 else ""
    )
    return Slot(
        id="candidates",
        label=label or "Add unadjusted and adjusted, all candidates",
        title="Candidates: each unadjusted, and all together",
        state="filled" if chosen else "add",
        options=options,
    )
