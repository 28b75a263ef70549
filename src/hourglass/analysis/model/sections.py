"""The readings of Model."""

from hourglass.analysis.model.design import Design
from hourglass.analysis.model.readings import ChiSquared, TermReading
from hourglass.analysis.shared import wording
from hourglass.analysis.shared.cell import Cell, figure, whole, words
from hourglass.analysis.shared.sections import Block, Cautions, Section, Table, Words, quiet
from hourglass.analysis.shared.workings import digits
from hourglass.core.regression.fitted import HazardsFit

HEAD = ["", "χ²", "df", "p"]
KEYS = ["test", "chi_squared", "df", "p"]


def model_sections(
    found: HazardsFit,
    coded: Design,
    terms: list[TermReading],
    tests: list[ChiSquared],
    said: list[str],
    rows_are: str,
) -> list[Section]:
    """In words, coefficients, tests of the whole model and of each term, concordance, fit."""
    whole_model = "Tests of the whole model"
    return [
        _in_words(said, rows_are),
        _coefficients(terms),
        Section(id="tests", title=whole_model, blocks=[test_table(whole_model, tests)]),
        Section(id="terms", title="Tests of each term", part="terms"),
        Section(id="ranking", title="Concordance", part="ranking"),
        Section(id="fit", title="Fit", blocks=[_fit(found), *_left_out(coded), Cautions()]),
    ]


def test_table(label: str, tests: list[ChiSquared]) -> Table:
    """A line a test; one without a statistic says why."""
    return Table(label=label, head=HEAD, keys=KEYS, rows=[_test(t) for t in tests])


def _test(test: ChiSquared) -> list[Cell]:
    if test.statistic is None:
        return [words(test.name), words(test.blank or "", wordy=True)]
    return [
        words(test.name),
        figure(wording.statistic(test.statistic), test.statistic),
        Cell(text=str(test.df), raw=test.df),
        figure(wording.p_value(test.p), test.p),
    ]


def _coefficients(terms: list[TermReading]) -> Section:
    """The logarithms of the ratios with their standard errors."""
    rows = []
    for term in terms:
        for c in term.coefficients:
            r = c.adjusted
            name = f"{term.name} {c.label}" if term.category else c.label
            rows.append(
                [
                    words(name),
                    *(figure(digits(value), value) for value in (r.beta, r.standard_error, r.z)),
                    figure(wording.p_value(r.p), r.p),
                ]
            )
    table = Table(
        label="Coefficients",
        head=["", "coefficient", "standard error", "z", "p"],
        keys=["term", "coefficient", "standard_error", "z", "p"],
        rows=rows,
    )
    about = quiet(
        "A coefficient is the natural logarithm of its hazard ratio; z is the coefficient "
        "in standard errors."
    )
    return Section(id="coefficients", title="Coefficients", place="main", blocks=[table, about])


def _in_words(said: list[str], rows_are: str) -> Section:
    return Section(
        id="in-words",
        title="In words",
        place="main",
        blocks=[
            Words(items=said),
            quiet(
                "A hazard ratio compares rates at a moment among those still free of the event. It is "
                f"not a probability, nor a share of {rows_are}."
            ),
        ],
    )


def _fit(found: HazardsFit) -> Table:
    estimated, value = found.estimated, found.minus_two_log_likelihood
    each = found.events / estimated if estimated else None
    rows = [
        [words("Rows"), whole(found.size)],
        [words("Events"), whole(found.events)],
        [
            words("Events per coefficient"),
            figure(wording.BLANK if each is None else wording.rounded(each, 1), each),
        ],
        [words("−2ℓ"), figure(wording.statistic(value), value)],
        [words("AIC"), figure(wording.statistic(found.aic), found.aic)],
        [words("BIC"), figure(wording.statistic(found.bic), found.bic)],
        [
            words("Converged in"),
            Cell(text=wording.count(found.iterations, "iterations"), raw=found.iterations),
        ],
    ]
    return Table(label="Fit", keys=["what", "number"], rows=rows)


def _left_out(coded: Design) -> list[Block]:
    if not coded.rows_left_out:
        return [quiet("No row is left out.")]
    rows = wording.count(coded.rows_left_out, "rows")
    return [
        Words(text=f"{rows} left out of the model:"),
        Table(
            label="Rows left out",
            keys=["why", "rows"],
            rows=[[words(f"{o.column} missing"), whole(o.rows)] for o in coded.left_out],
        ),
    ]
