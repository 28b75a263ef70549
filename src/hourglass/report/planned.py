"""What a plan may hold of every stage, the report and its print among them."""

from pydantic import ValidationError

from hourglass.analysis.shared.stage import Stages
from hourglass.analysis.shared.statement import StageStatement
from hourglass.report.print.settings import PrintSettings
from hourglass.report.statement import ReportStatement
from hourglass.study.actions.action import REPORT
from hourglass.study.plans.document import StudyPlan, unusable_statements
from hourglass.study.plans.mistakes import wrong_places


def statement_kinds(stages: Stages) -> dict[str, type[StageStatement]]:
    """The types of all statements that a plan may hold, by stage."""
    return {stage.name: stage.statement for stage in stages} | {REPORT: ReportStatement}


def unusable(plan: StudyPlan, stages: Stages) -> list[str]:
    """What is wrong with a plan, place by place; empty where nothing is."""
    found = unusable_statements(plan, statement_kinds(stages))
    for view, settings in plan.figures.items():
        try:
            PrintSettings.model_validate(settings)
        except ValidationError as why:
            found += wrong_places(PrintSettings, why, f"Figure of {view}")
    return found
