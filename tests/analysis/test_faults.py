"""A fault of the program is no result: it goes through, where a refusal is put into words."""

import numpy as np
import pytest

from hourglass.analysis.applied.readouts import applied_result
from hourglass.analysis.check.row_workings import under_check
from hourglass.analysis.check.statement import CheckStatement
from hourglass.analysis.estimate.statement import EstimateStatement
from hourglass.analysis.model.fit_numbers import fitted_numbers
from hourglass.analysis.model.likelihood_workings import _fitted
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.model.terms.number import NumberTerm
from hourglass.analysis.shared.workings import NoWorkingsError
from hourglass.core.errors import HourglassError, NotEstimableError
from hourglass.core.progress import no_progress
from making import cohort
from stages import check, model

ROWS = cohort("t,s,age\n" + "".join(f"{k},{k % 2},{(7 * k) % 30}\n" for k in range(1, 40)))
STATED = ModelStatement(terms=(NumberTerm(column="age"),))
STATEMENTS = {"estimate": EstimateStatement(), "model": STATED, "check": CheckStatement()}
IN_WORDS = {
    "model": lambda: model(ROWS, STATED).blank,
    "kept model": lambda: fitted_numbers(ROWS, STATED, 0.95, no_progress).why,
    "check": lambda: check(ROWS, STATED, CheckStatement()).blank,
    "applied": lambda: applied_result(ROWS, STATED, ROWS, None, no_progress).blank,
}
REFUSED = {
    "likelihood": lambda: _fitted(ROWS, STATEMENTS),
    "rows": lambda: under_check(ROWS, STATEMENTS),
}


@pytest.fixture
def fitting(monkeypatch):
    """Has every fit fail."""

    def fail_with(error):
        def fit(*_, **__):
            raise error

        monkeypatch.setattr("hourglass.analysis.model.fitting.fit", fit)

    return fail_with


@pytest.mark.parametrize("place", [*IN_WORDS, *REFUSED])
def test_a_fault_is_no_result(fitting, place):
    fitting(ValueError("operands could not be broadcast together"))
    with pytest.raises(ValueError, match="broadcast"):
        (IN_WORDS | REFUSED)[place]()


@pytest.mark.parametrize("place", IN_WORDS)
def test_a_refusal_is_put_into_words(fitting, place):
    fitting(NotEstimableError("nobody had the event"))
    assert "nobody had the event" in IN_WORDS[place]()


@pytest.mark.parametrize("place", REFUSED)
def test_a_refusal_of_workings_is_one_of_theirs(fitting, place):
    fitting(NotEstimableError("nobody had the event"))
    with pytest.raises(NoWorkingsError, match="nobody had the event") as refused:
        REFUSED[place]()
    assert isinstance(refused.value, HourglassError)


@pytest.mark.parametrize("place", IN_WORDS)
def test_a_matrix_without_an_inverse_is_the_data_s_doing(fitting, place):
    fitting(np.linalg.LinAlgError("Singular matrix"))
    assert "has no inverse" in IN_WORDS[place]()
