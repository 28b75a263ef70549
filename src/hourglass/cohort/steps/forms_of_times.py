"""How the steps are written by hand that read times with more than a number, and that fill cells."""

from hourglass.cohort.steps.form import StepForm, choices, column, form, place

TEXT, DATE = ("text",), ("date",)

TIME_FORMS: tuple[StepForm, ...] = (
    form(
        "take_mark_apart",
        "Read times with a mark, such as 127+",
        "a number, and a column of how each ended",
        {"column": "", "marked": "censored", "into": ""},
        [
            "Read ",
            column("Column of text", TEXT),
            " as numbers, a mark meaning ",
            choices(
                "marked", "What a mark means", ("censored", "censored"), ("event", "the event")
            ),
            ", how each ended as ",
            place("text", "into", "Name of the new column", optional=True),
        ],
    ),
    form(
        "read_colons",
        "Read times with a colon, such as 127:45",
        "hours and minutes, or minutes and seconds, as one number",
        {"column": "", "first": "hours"},
        [
            "Read ",
            column("Column of text", TEXT),
            " with ",
            choices(
                "first", "What stands before the colon", ("hours", "hours"), ("minutes", "minutes")
            ),
            " before the first colon",
        ],
    ),
    form(
        "take_ends_apart",
        "Take two numbers of a cell apart, such as 0-120",
        "each in a column of its own",
        {"column": "", "keep": "both"},
        [
            "Of ",
            column("Column of text", TEXT),
            " take ",
            choices(
                "keep",
                "Which numbers",
                ("both", "both numbers"),
                ("first", "the first number"),
                ("second", "the second number"),
            ),
        ],
    ),
    form(
        "century_earlier",
        "Read dates a century earlier",
        "such as births that lie after the first visit",
        {"column": "", "after": ""},
        [
            "Read ",
            column("Column of dates", DATE),
            " a century earlier where it lies after ",
            column("Column of dates", DATE, "after"),
        ],
    ),
    form(
        "whole_days",
        "Take midnights of another time zone for days",
        "times such as 22:00 and 23:00 on every date",
        {"column": "", "ahead": 1},
        [
            "Take ",
            column("Column of dates", DATE),
            " for days of a place ",
            place("number", "ahead", "Hours ahead"),
            " hours ahead",
        ],
    ),
    form(
        "fill_down",
        "Fill blank cells from the row above",
        "a block of rows that is named in its first row only",
        {"column": ""},
        ["Fill ", column("Column"), " down"],
    ),
    form(
        "first_known",
        "Join columns: the first that holds something",
        "row by row, such as a reason where there is one, else the status",
        {"columns": [], "into": ""},
        [
            "Of ",
            place("columns", "columns", "Columns, in order"),
            " take the first that holds something, as ",
            place("text", "into", "Name of the new column"),
        ],
    ),
)
