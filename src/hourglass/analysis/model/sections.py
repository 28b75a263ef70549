"""The readings of Model."""

import numpy as np

from hourglass.analysis.model.design import Design
from hourglass.analysis.model.fitting import FittedModel
from hourglass.analysis.model.likelihood_workings import BY_ROW, STEPS
from hourglass.analysis.model.readouts import ChiSquared
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.cell import Cell, WorkingsOf, number_cell, p_cell, whole, words
from hourglass.analysis.shared.frozen_model import number
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.analysis.shared.sections import (
    Cautions,
    ContentBlock,
    Section,
    Table,
    Words,
    quiet,
    test_row,
)

HEAD = ["", "χ²", "df", "p"]
KEYS = ["test", "chi_squared", "df", "p"]
PENALISED = (
    "The likelihood bears the penalty ½ ln |I| (Firth 1993): every ratio is finite, intervals are by profile "
    "and each p is that of the penalised likelihood ratio. Such a model has no information criteria."
)
ERRORS = {
    "subject": ", which are robust: the rows of a subject belong together (Lin & Wei 1989)",
    "column": ", which are robust: the rows of a cluster belong together (Lin & Wei 1989)",
}


def model_sections(
    fitted: FittedModel, tests: list[ChiSquared], text: list[str], rows_are: str
) -> list[Section]:
    """In words, coefficients, tests of the whole model and of each term, concordance, fit."""
    whole_model = "Tests of the whole model"
    blocks: list[ContentBlock] = [test_table(whole_model, tests)]
    if fitted.model.penalised:
        blocks.append(quiet(PENALISED))
    return [
        _in_words(text, rows_are),
        _coefficients(fitted),
        Section(id=SectionId.TESTS, title=whole_model, blocks=blocks),
        Section(id=SectionId.TERMS, title="Tests of each term", part="terms"),
        Section(id=SectionId.RANKING, title="Concordance", part="ranking"),
        Section(id=SectionId.INFLATION, title="Variance inflation", blocks=_inflation(fitted)),
        Section(
            id=SectionId.FIT,
            title="Fit",
            blocks=[_fit(fitted), *_left_out(fitted.design), Cautions()],
        ),
    ]


def test_table(label: str, tests: list[ChiSquared]) -> Table:
    """A line a test; one without a statistic gives the reason."""
    return Table(
        label=label, head=HEAD, keys=KEYS, rows=[test_row(words(t.name), t) for t in tests]
    )


def _coefficients(fitted: FittedModel) -> Section:
    """The logarithms of the ratios with their standard errors."""
    rows = []
    for k, column in enumerate(fitted.design.columns):
        opens = WorkingsOf(figure="hazard-ratio", about={"column": k})
        finite = fitted.fit.status[k] == "finite"
        beta = number(float(fitted.fit.beta[k]))
        error = number(float(fitted.fit.standard_error[k]))
        z = beta / error if beta is not None and error else None
        p = fitted.p(k) if finite else None
        worked = {"workings": opens} if finite else {}
        rows.append(
            [
                words(column.named),
                number_cell(formatting.coefficient(beta, error), beta, **worked),
                number_cell(formatting.coefficient(error, error), error),
                number_cell(formatting.statistic(z), z),
                p_cell(p),
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
        f"in standard errors{ERRORS.get(_errors(fitted), '')}."
    )
    return Section(
        id=SectionId.COEFFICIENTS, title="Coefficients", place="main", blocks=[table, about]
    )


def _in_words(text: list[str], rows_are: str) -> Section:
    return Section(
        id=SectionId.IN_WORDS,
        title="In words",
        place="main",
        blocks=[
            Words(items=text),
            quiet(
                "A hazard ratio compares rates at a moment among those free of the event. It is "
                f"not a probability, nor a share of {rows_are}."
            ),
        ],
    )


def _by_row(fitted: FittedModel) -> WorkingsOf | None:
    """What the log likelihood opens, where it is a sum over rows or event times."""
    return None if fitted.model.penalised else BY_ROW


def _errors(fitted: FittedModel) -> str:
    return "" if fitted.model.robust is None else fitted.model.robust.kind


def _inflation(fitted: FittedModel) -> list[ContentBlock]:
    """How much the other terms widen each term's errors."""
    if len(fitted.design.terms) < 2:
        return [quiet("Variance inflation needs at least two terms.")]
    rows = []
    for k, label in enumerate(fitted.design.terms):
        positions = fitted.design.of_term(k)
        kept = positions[[fitted.plain.status[c] != "aliased" for c in positions]]
        value = fitted.plain.variance_inflation(kept) if kept.size else None
        root = None if value is None else max(value, 0.0) ** (1 / kept.size)
        shown = (formatting.BLANK if v is None else formatting.rounded(v, 2) for v in (value, root))
        cells = [number_cell(text, v) for text, v in zip(shown, (value, root), strict=True)]
        rows.append([words(label), *cells])
    table = Table(
        label="Variance inflation",
        head=["", "inflation", "per df"],
        keys=["term", "variance_inflation", "variance_inflation_per_df"],
        rows=rows,
    )
    about = "A value of 1 means that the term is unrelated to the others (Fox & Monette 1992)."
    return [table, quiet(about)]


def _fit(fitted: FittedModel) -> Table:
    found, penalised = fitted.fit, fitted.model.penalised
    estimated, value = found.estimated, found.minus_two_log_likelihood
    each = found.events / estimated if estimated else None
    rows = [
        [words("Rows"), whole(fitted.design.size)],
        [words("Events"), whole(found.events)],
        [
            words("Events per coefficient"),
            number_cell(formatting.BLANK if each is None else formatting.rounded(each, 1), each),
        ],
        [
            words("−2ℓ, penalised" if penalised else "−2ℓ"),
            number_cell(formatting.statistic(value), value, workings=_by_row(fitted)),
        ],
    ]
    if not penalised:
        rows += [
            [words("AIC"), number_cell(formatting.statistic(found.aic), found.aic)],
            [words("BIC"), number_cell(formatting.statistic(found.bic), found.bic)],
        ]
    if fitted.design.strata:
        rows.append([words("Baselines"), whole(_baselines(fitted.design))])
    rows += [
        [
            words("Converged in", below="to a decrement below 1e-14 of 1 + |ℓ|"),
            Cell(
                text=formatting.count(found.iterations, "iterations"),
                raw=found.iterations,
                workings=STEPS,
            ),
        ],
        [words("Condition number"), number_cell(f"{found.condition:.3g}", found.condition)],
    ]
    return Table(label="Fit", keys=["what", "number"], rows=rows)


def _baselines(coded: Design) -> int:
    """How many strata have rows."""
    return int(np.unique(coded.stratum).size) if coded.stratum is not None else 1


def _left_out(coded: Design) -> list[ContentBlock]:
    if not coded.rows_left_out:
        return [quiet("No row was left out.")]
    return [
        Table(
            label="Rows left out of the model",
            keys=["why", "rows"],
            rows=[[words(o.why), whole(o.rows)] for o in coded.left_out],
        )
    ]
