"""How the steps are written by hand that turn another layout into rows that are followed."""

from hourglass.cohort.steps.form import StepForm, choice, column, form, place

NUMBER, DATE, TEXT = ("number",), ("date",), ("text",)
NAME = place("text", "into", "Name of the new column")
SUBJECT = column("Subject", field="subject")
VISIT = column("Time of the visit", (*NUMBER, *DATE), "time")

LAYOUT_FORMS: tuple[StepForm, ...] = (
    form(
        "spread_counts",
        "Spread counts at each time into rows",
        "so many events, so many censored, at each time",
        {"counts": {}, "time": "", "at_risk": "", "counted": "before", "within": []},
        [
            "Counts: ",
            place("pairs", "counts", "End"),
            " at each ",
            column("Column of times", NUMBER, "time"),
            ", with those at risk in ",
            column("Numbers at risk (blank: you are asked)", NUMBER, "at_risk", optional=True),
            " counted ",
            choice(
                "counted", "When they are counted", before="before the ends", after="after the ends"
            ),
            ", apart for each ",
            place("columns", "within", "Columns that set counts apart", optional=True),
        ],
    ),
    form(
        "stack_groups",
        "Stack a status column for each group",
        "one time column, a status column for each group",
        {"groups": {}},
        ["Status columns: ", place("pairs", "groups", "Group")],
    ),
    form(
        "first_by_subject",
        "The first date of each subject",
        "beside every row of the subject, as a start of follow-up",
        {"subject": "", "column": "", "into": ""},
        [NAME, " is the first ", column("Date", DATE), " of each ", SUBJECT],
    ),
    form(
        "join_parted_numbers",
        "Join numbers parted at a decimal comma",
        "in rows with one cell more than there are names",
        {"column": "", "names": []},
        [
            "Join the two cells of ",
            place("text", "column", "Name of the column"),
            "; the names in the header are ",
            place("words", "names", "Names, set apart by commas"),
        ],
    ),
    form(
        "rows_between_visits",
        "Rows between visits",
        "each from one visit of a subject to the next, with what was known at its start",
        {"subject": "", "time": "", "outcome": "", "into": ""},
        [
            "For each ",
            SUBJECT,
            " rows between visits at ",
            VISIT,
            ", with the outcome ",
            column("Outcome", field="outcome", optional=True),
            " of the later one; its start is ",
            NAME,
        ],
    ),
    form(
        "stack_visits",
        "A row for each visit",
        "of columns that hold a time and a state for each visit",
        {"times": [], "states": [], "time": "visit at", "state": "state"},
        [
            "Make rows of the times ",
            place("columns", "times", "Times of the visits, in order"),
            " with the states ",
            place("columns", "states", "States at the visits, in order"),
            ", called ",
            place("text", "time", "Name of the time"),
            " and ",
            place("text", "state", "Name of the state"),
        ],
    ),
    form(
        "keep_one_visit",
        "Keep one visit of each subject",
        "the first at which something is so, else the last",
        {"subject": "", "time": "", "column": "", "values": []},
        [
            "Of each ",
            SUBJECT,
            " keep, by ",
            VISIT,
            ", the first visit at which ",
            column("What is looked for", optional=True),
            " is ",
            place("words", "values", "Values, set apart by commas", optional=True),
            ", else the last",
        ],
    ),
    form(
        "gather_records",
        "Gather dated records",
        "one row for each subject, with the first date of each kind",
        {"subject": "", "date": "", "record": ""},
        [
            "Gather ",
            column("What happened", TEXT, "record"),
            " by ",
            SUBJECT,
            ", each with its first ",
            column("Date", DATE, "date"),
        ],
    ),
)
