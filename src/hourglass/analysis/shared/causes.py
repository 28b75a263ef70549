"""What each cause is called, where events compete."""

from hourglass.cohort.followup import Cohort


def cause_names(cohort: Cohort) -> tuple[str, ...]:
    """The event, then the competing events, in the order of their statuses 1, 2, …"""
    meanings = cohort.statement.meanings
    named = (meanings[code].name if code in meanings else "" for code in cohort.competing)
    return (
        cohort.statement.event_name,
        *(name or code for name, code in zip(named, cohort.competing, strict=True)),
    )
