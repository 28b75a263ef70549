"""The slots of how a model is fitted: strata, ties, intervals, errors, penalty, cause."""

from hourglass.analysis.catalogue.ties import TIE_METHODS
from hourglass.analysis.model.statement import ByColumn, BySubject, ModelStatement
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.causes import cause_names
from hourglass.analysis.shared.groups import categories, group_by
from hourglass.analysis.shared.sentence import Option, Slot
from hourglass.analysis.shared.slots import method_slot
from hourglass.cohort.followup import Cohort
from hourglass.cohort.table import DateColumn


def event_slot(cohort: Cohort, statement: ModelStatement) -> Slot | str:
    """What happens: the event, or a competing event in its place."""
    names = cause_names(cohort)
    if not cohort.competing:
        return names[0]
    codes = ("", *cohort.competing)
    chosen = statement.cause
    return Slot(
        id="cause",
        label=dict(zip(codes, names, strict=True)).get(chosen, chosen),
        title="Event whose rate is modelled",
        options=[
            Option(
                label=name,
                note="the other events are censorings at their time",
                field="cause",
                value=code,
                chosen=code == chosen,
            )
            for code, name in zip(codes, names, strict=True)
        ],
    )


def strata_slot(cohort: Cohort, statement: ModelStatement) -> Slot:
    """Which categories' levels have a baseline each."""
    chosen = list(statement.strata)
    options = [
        Option(
            label=f"{name}, no more",
            note="one baseline for all its levels",
            field="strata",
            value=[one for one in chosen if one != name],
        )
        for name in chosen
    ]
    options += [
        Option(
            label=name,
            note=f"{formatting.count(len(group_by(cohort.table, name, None).labels), 'levels')}; it has no "
            "ratio",
            field="strata",
            value=name,
            adds=True,
        )
        for name in categories(cohort)
        if name not in chosen and len(chosen) < 4
    ]
    return Slot(
        id="strata",
        label=formatting.listed(chosen) or "Add strata",
        title="Stratified by: a baseline hazard for each level of",
        state="filled" if chosen else "add",
        options=options,
    )


def ties_slot(statement: ModelStatement) -> Slot:
    """How events at one time enter the likelihood."""
    return method_slot("ties", "Events at one time", TIE_METHODS, statement.ties)


def intervals_slot(statement: ModelStatement) -> Slot:
    """What intervals are made of."""
    words = {
        "standard error": ("Wald", "by the standard error, symmetric on the log scale"),
        "profile": (
            "profile-likelihood",
            "better with few events; each end is a search of its own",
        ),
    }
    if statement.penalised:
        return Slot(
            id="intervals",
            label="penalised profile-likelihood",
            title="Intervals",
            options=[
                Option(
                    label="penalised profile-likelihood",
                    note="a penalised model has no other",
                    field="penalised",
                    value=True,
                    chosen=True,
                )
            ],
        )
    return Slot(
        id="intervals",
        label=words[statement.intervals][0],
        title="Intervals",
        options=[
            Option(
                label=label,
                note=note,
                field="intervals",
                value=key,
                chosen=key == statement.intervals,
            )
            for key, (label, note) in words.items()
        ],
    )


def robust_slot(cohort: Cohort, statement: ModelStatement) -> Slot:
    """Whom rows belong to, where errors should not take them for strangers."""
    chosen = statement.robust
    named = chosen.column if isinstance(chosen, ByColumn) else cohort.rows_are
    options = [
        Option(
            label="No: by the model itself",
            note="every row stands for itself",
            field="robust",
            value=None,
            chosen=chosen is None,
        ),
        Option(
            label=f"by {cohort.rows_are}",
            note="also where the model is not quite right",
            field="robust",
            value=BySubject().model_dump(mode="json"),
            chosen=isinstance(chosen, BySubject),
        ),
    ]
    options += [
        Option(
            label=f"by {column.name}",
            note="rows of one level belong together",
            field="robust",
            value=ByColumn(column=column.name).model_dump(mode="json"),
            chosen=isinstance(chosen, ByColumn) and chosen.column == column.name,
        )
        for column in cohort.table.columns
        if not isinstance(column, DateColumn) and column.name not in cohort.statement.spent
    ]
    return Slot(
        id="robust",
        label="Add robust errors" if chosen is None else named,
        title="Robust errors by",
        state="add" if chosen is None else "filled",
        options=options,
    )


def penalty_slot(statement: ModelStatement) -> Slot:
    """Firth's penalty."""
    on = statement.penalised
    return Slot(
        id="penalised",
        label="penalised" if on else "Add a penalty",
        title="Firth's penalty",
        state="filled" if on else "add",
        options=[
            Option(
                label="penalised",
                note="makes every ratio finite, and less biased with few events",
                field="penalised",
                value=True,
                chosen=on,
            ),
            Option(
                label="not penalised",
                note="the likelihood as it is",
                field="penalised",
                value=False,
                chosen=not on,
            ),
        ],
    )
