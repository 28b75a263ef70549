"""What could be done about a term whose ratio changes: each a model of its own, or a decision."""

from hourglass.analysis.check.offered_models import trying
from hourglass.analysis.check.readouts import TermCheck
from hourglass.analysis.compare.statement import CompareStatement
from hourglass.analysis.model.statement import HazardsModel, ModelStatement
from hourglass.analysis.model.terms.changing import AlongFunction, Changing, Periods
from hourglass.analysis.model.terms.forms import in_product
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.round_times import middle_event_time
from hourglass.analysis.shared.sections import Action
from hourglass.cohort.followup import Cohort


def remedies(
    cohort: Cohort, model_statement: ModelStatement, place: int, term: TermCheck, *, category: bool
) -> list[Action]:
    """Keep one ratio, with a reason; let it change; own baselines or curves for a category."""
    name = term.name
    found = [
        Action(
            sentence=f"Keep one ratio for {term.label}, and report it as an average over the "
            "follow-up of this study.",
            label="Keep, with a reason",
            do="decide",
            stage="check",
            about=f"not proportional: {term.label}",
        )
    ]
    at, unit = middle_event_time(cohort), cohort.statement.unit
    if may_change(model_statement, place) and at > 0:
        when = formatting.stated_time(at, unit)
        found.append(
            trying(
                model_statement,
                _changing(model_statement, place, Periods(ends=(at,))),
                f"Let the ratio of {name} change at {when}: one before, one after.",
                f"Try a change at {when}",
                f"ratio of {name} changing at {when}, tried in Check",
            )
        )
        if cohort.follow_up.exit[cohort.follow_up.event()].min(initial=1.0) > 0:
            found.append(
                trying(
                    model_statement,
                    _changing(model_statement, place, AlongFunction(function="log time")),
                    f"Let the ratio of {name} move steadily with the logarithm of time.",
                    "Try a change along ln time",
                    f"ratio of {name} changing along ln time, tried in Check",
                )
            )
    if category:
        if (
            len(model_statement.terms) > 1
            and name not in model_statement.strata
            and len(model_statement.strata) < 4
        ):
            found.append(
                trying(
                    model_statement,
                    _own_baselines(model_statement, place, name),
                    f"Give each level of {name} its own baseline; it then has no ratio.",
                    f"Try strata by {name}",
                    f"stratified by {name}, tried in Check",
                )
            )
        found.append(
            Action(
                sentence=f"Show the curves by {name}, which assume nothing about the ratio.",
                label=f"Compare by {name}",
                do="state",
                stage="compare",
                statement=CompareStatement(by=name).model_dump(mode="json"),
            )
        )
    return found


def may_change(model_statement: ModelStatement, place: int) -> bool:
    """Whether a term can be given a time-varying effect: it has none yet, and is in no product."""
    term = model_statement.terms[place]
    steady = term.changing is None and not in_product(model_statement.terms, term.column)
    return steady and not term.several


def _changing(model_statement: ModelStatement, place: int, change: Changing) -> HazardsModel:
    changed = model_statement.terms[place].model_copy(update={"changing": change})
    return model_statement.hazards_model.with_term(place, changed)


def _own_baselines(model_statement: ModelStatement, place: int, name: str) -> HazardsModel:
    strata = (*model_statement.strata, name)
    return model_statement.hazards_model.without_term(place).model_copy(update={"strata": strata})
