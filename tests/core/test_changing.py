"""Effects along a function of time with rows left whole, against rows that are parted."""

import numpy as np
import pytest

from core.conftest import Sample
from hourglass.core.errors import NotEstimableError
from hourglass.core.followup import follow_up
from hourglass.core.regression import changing, changing_fit
from hourglass.core.regression.changing_checks import (
    changing_baselines,
    changing_concordance,
    changing_proportionality,
)
from hourglass.core.regression.changing_fit import fit_changing
from hourglass.core.regression.concordance import concordance
from hourglass.core.regression.effects import STEADY, AlongTime, ByPeriod, over_time, part
from hourglass.core.regression.fit import fit
from hourglass.core.regression.prediction import baselines_of
from hourglass.core.regression.proportionality import proportionality_test
from hourglass.core.regression.risk_sets import risk_sets
from hourglass.core.regression.ties import BRESLOW, EFRON, EXACT
from hourglass.core.regression.time_functions import TIME_FUNCTIONS, EventRank, LogTime, TimeItself

EFFECTS = [AlongTime(LogTime()), STEADY, AlongTime(EventRank()), ByPeriod((3.0,))]
NEAR = 1e-9


class Both:
    """One model fitted on whole rows, and on pieces of them."""

    def __init__(self, data, x, effects=EFFECTS, ties=EFRON, stratum=None):
        self.data, self.x = data, x
        self.made = over_time(data, effects)
        self.sets = risk_sets(data, ties, stratum)
        self.whole = fit_changing(data, x, self.made, ties, stratum, self.sets)
        parted = part(data, x, self.made)
        self.pieces, self.columns = parted.pieces.data, parted.x
        self.stratum = None if stratum is None else stratum[parted.pieces.row]
        self.parted = fit(self.pieces, self.columns, ties=ties, stratum=self.stratum)

    @property
    def of_whole(self):
        return self.data, self.sets, self.x, self.made, self.whole


def sample(seed, n=40, strata=False, x=None, **kind):
    made = Sample(seed, n=n, **kind)
    rng = np.random.default_rng(seed)
    values = np.column_stack([rng.integers(0, 2, n), rng.normal(size=(n, 3))])
    return made.data, values, rng.integers(0, 3, n) if strata else None


@pytest.fixture(params=[7, 200], ids=["blocks of some times", "blocks of many"])
def block(request, monkeypatch):
    monkeypatch.setattr(changing, "PAIRS", request.param)


@pytest.mark.parametrize("ties", [EFRON, BRESLOW], ids=lambda t: t.key)
@pytest.mark.parametrize("kind", [{}, {"counts": True}, {"late": True, "counts": True}])
@pytest.mark.parametrize("strata", [False, True])
def test_whole_rows_give_what_their_pieces_give(block, ties, kind, strata):
    data, x, stratum = sample(3, n=90, strata=strata, **kind)
    both = Both(data, x, ties=ties, stratum=stratum)
    whole, parted = both.whole, both.parted
    for name in ("beta", "covariance", "value", "value_at_zero"):
        assert getattr(whole, name) == pytest.approx(getattr(parted, name), rel=NEAR), name
    for name in ("likelihood_ratio", "wald", "score"):
        one, other = getattr(whole, name), getattr(parted, name)
        assert (one.df, one.statistic) == (other.df, pytest.approx(other.statistic, rel=NEAR))
    found = changing_concordance(*both.of_whole)
    wanted = concordance(both.pieces, parted.linear, both.stratum)
    assert found.pairs == wanted.pairs
    assert found.value == pytest.approx(wanted.value, rel=NEAR)
    assert found.standard_error == pytest.approx(wanted.standard_error, rel=NEAR)


@pytest.mark.parametrize("function", TIME_FUNCTIONS, ids=lambda f: f.key)
def test_the_test_over_time_is_that_of_pieces(block, function):
    data, x, stratum = sample(4, n=80, strata=True, late=True)
    both = Both(data, x, stratum=stratum)
    found = changing_proportionality(*both.of_whole, function)
    wanted = proportionality_test(both.pieces, both.columns, both.parted, function)
    assert found.contribution == pytest.approx(wanted.contribution, rel=1e-7, abs=1e-9)
    assert found.variance == pytest.approx(wanted.variance, rel=NEAR, abs=1e-9)
    one, other = found.together, wanted.together
    assert one.blank == other.blank  # what already changes along a function is not tested along it
    if one.blank is None:
        assert one.statistic == pytest.approx(other.statistic, rel=1e-8)


def test_predictions_are_those_of_pieces():
    data, x, stratum = sample(5, n=80, strata=True, counts=True)
    x[:, 1] = 2000 + 5 * x[:, 1]  # a year: far from 0, beside its spread
    both = Both(data, x, stratum=stratum)
    found, wanted = (
        changing_baselines(*both.of_whole),
        baselines_of(both.pieces, both.columns, both.parted),
    )
    assert found.keys() == wanted.keys()
    for code, own in found.items():
        person = both.made.profile(x[8], own.time)
        one, other = own.survival(person), wanted[code].survival(person)
        for name in ("survival", "variance", "lower", "upper"):
            assert getattr(one, name) == pytest.approx(getattr(other, name), rel=1e-8), name
        assert (one.last, own.time.tolist()) == (other.last, wanted[code].time.tolist())


def test_what_rounding_or_separation_may_decide_is_left_to_pieces():
    data, x, _ = sample(6)
    repeated = np.column_stack([x[:, 1], 2 * x[:, 1] + 1])
    first = np.column_stack([-data.exit + 1e-6 * x[:, 1]])
    lone = follow_up([1, 2, 3], [0, 1, 0])
    for rows, values, ties in (
        (data, repeated, EFRON),
        (data, np.column_stack([np.ones(40), x[:, 1]]), EFRON),
        (data, first, EFRON),
        (data, x[:, :1], EXACT),
        (lone, np.array([[0.0], [1], [3]]), EFRON),
    ):
        effects = [AlongTime(TimeItself())] * values.shape[1]
        made, sets = over_time(rows, effects), risk_sets(rows, ties)
        assert fit_changing(rows, values, made, ties, None, sets) is None


def test_too_many_pairs_are_refused_and_a_step_can_be_stopped(monkeypatch):
    data, x, _ = sample(8)
    made, sets = over_time(data, EFFECTS), risk_sets(data, EFRON)
    monkeypatch.setattr(changing, "PAIRS", 200)

    heard = []

    def stop(done):
        heard.append(done)
        if done > 1.5:
            raise InterruptedError(done)

    with pytest.raises(InterruptedError):
        fit_changing(data, x, made, EFRON, None, sets, stop)
    assert any(done % 1 for done in heard), "a step is reported in parts"
    monkeypatch.setattr(changing_fit, "MAX_PAIRS", 100)
    with pytest.raises(NotEstimableError, match="let it change at stated times"):
        fit_changing(data, x, made, EFRON, None, sets)
