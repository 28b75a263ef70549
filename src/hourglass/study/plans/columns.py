"""The columns that a plan names and a file does not have, all at once."""

from difflib import get_close_matches

from hourglass.analysis.shared.stage import Stages
from hourglass.cohort.statement import FollowUpStatement
from hourglass.cohort.table import Table
from hourglass.study.plans.document import StudyPlan


def missing_columns(plan: StudyPlan, stages: Stages, table: Table) -> list[str]:
    """A sentence for each column that is not there, with who names it and what it may be called.

    Args:
        table: of the file, after the plan's steps.
    """
    named: dict[str, list[str]] = {}
    for name in _of_follow_up(plan.follow_up):
        named.setdefault(name, []).append("the follow-up")
    for one in plan.analyses:
        stage = next((s for s in stages if s.name == one.stage), None)
        if stage is None or not one.statement:
            continue
        for name in stage.statement.read(one.statement).columns():
            if stage.title not in named.setdefault(name, []):
                named[name].append(stage.title)
    made = {covariate.into for one in plan.tables for covariate in one.stated.covariates}
    there = [column.name for column in table.columns]
    return [
        f"There is no column “{name}”, which {_listed(who)} needs{_like(name, there)}."
        for name, who in named.items()
        if not table.has(name) and name not in made
    ]


def _of_follow_up(statement: FollowUpStatement) -> list[str]:
    return sorted(statement.spent)


def _listed(who: list[str]) -> str:
    return who[0] if len(who) == 1 else f"{', '.join(who[:-1])} and {who[-1]}"


def _like(name: str, there: list[str]) -> str:
    found = get_close_matches(name, there, n=1)
    if not found:
        return f": if it has another name there, add --rename NAME={name}"
    return f": if “{found[0]}” is it, add --rename {found[0]}={name}"
