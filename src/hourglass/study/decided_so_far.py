"""What somebody has decided or opened in a study so far: findings, the layout, the stages to be shown."""

import sys
from collections.abc import Mapping

from hourglass.analysis.shared.stage import Stages
from hourglass.study.actions.follow_up import KEEP, FindingDecided, LayoutConfirmed
from hourglass.study.study import Study


def opened_stages(study: Study, stages: Stages) -> frozenset[str]:
    """Stages that somebody opened or wrote a statement of, and those that these show too."""
    own = {a.stage for a in study.analyses if a.in_use}
    with_them = {shown for stage in stages if stage.name in own for shown in stage.opens_too}
    return frozenset(own | with_them)


def kept_findings(study: Study) -> Mapping[str, int]:
    """Findings that somebody decided to leave as they are, with the rows they had then."""
    kept: dict[str, int] = {}
    for d in study.standing:
        if isinstance(d.action, FindingDecided) and d.action.choice == KEEP:
            rows = sys.maxsize if d.action.rows is None else d.action.rows
            kept[d.action.finding] = max(rows, kept.get(d.action.finding, 0))
    return kept


def layout_decided(study: Study) -> bool:
    """Whether somebody has confirmed which layout the study's table has."""
    return any(isinstance(d.action, LayoutConfirmed) for d in study.standing)
