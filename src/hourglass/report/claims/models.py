"""Claims about the hazards model: how it was fitted, and whether it was checked."""

from hourglass.analysis.catalogue import sources
from hourglass.analysis.catalogue.ties import TIE_METHODS
from hourglass.analysis.check.result import CheckResult
from hourglass.analysis.model.result import ModelResult
from hourglass.analysis.model.statement import ModelStatement
from hourglass.analysis.shared import formatting
from hourglass.analysis.shared.declared import statement_of
from hourglass.analysis.shared.section_ids import SectionId
from hourglass.core.regression.adjusted import SAMPLES
from hourglass.report.claims.claim import METHODS, Claim, Claimed, printed_section
from hourglass.report.inputs import ReportInputs
from hourglass.report.sentences import worded


def _stated(found: ReportInputs) -> ModelStatement | None:
    if found.stage("model") is None:
        return None
    return statement_of(found.statements, ModelStatement)


def _regression(found: ReportInputs) -> Claimed | None:
    stated = _stated(found)
    if stated is None:
        return None
    event = stated.cause or found.cohort.event_name
    model = found.stage("model")
    terms = [one.label for one in model.terms] if isinstance(model, ModelResult) else []
    name = "stratified regression" if stated.strata else "regression"
    strata = formatting.listed(list(stated.strata))
    words = worded(
        METHODS,
        name if terms else "regression without terms",
        event=event,
        terms=formatting.listed(terms),
        strata=strata,
    )
    return Claimed(words, (sources.HAZARDS_MODEL,))


def _ties(found: ReportInputs) -> Claimed | None:
    stated = _stated(found)
    if stated is None:
        return None
    rule = TIE_METHODS[stated.ties]
    return Claimed(worded(METHODS, "ties", rule=rule.claim), rule.sources)


def _penalty(found: ReportInputs) -> Claimed | None:
    stated = _stated(found)
    if stated is None or not stated.penalised:
        return None
    return Claimed(worded(METHODS, "penalty"), (sources.PENALTY,))


def _robust(found: ReportInputs) -> Claimed | None:
    stated = _stated(found)
    if stated is None or stated.robust is None:
        return None
    return Claimed(worded(METHODS, "robust errors"), (sources.ROBUST_ERRORS,))


def _profile(found: ReportInputs) -> Claimed | None:
    stated = _stated(found)
    if stated is None or (stated.intervals != "profile" and not stated.penalised):
        return None
    return Claimed(worded(METHODS, "profile intervals"))


def _concordance(found: ReportInputs) -> Claimed | None:
    if not found.has("model/ranking") or "ratios" in found.left_out:
        return None
    return Claimed(worded(METHODS, "concordance"), (sources.CONCORDANCE,))


def _predictions(found: ReportInputs) -> Claimed | None:
    if printed_section(found, "predictions", "model", SectionId.PREDICTIONS) is None:
        return None
    return Claimed(worded(METHODS, "predictions"), (sources.PREDICTED_SURVIVAL,))


def _bootstrap(found: ReportInputs) -> Claimed | None:
    what = {SectionId.MEANS: "predicted restricted means", SectionId.ADJUSTED: "adjusted survival"}
    printed = [
        name for id, name in what.items() if printed_section(found, "predictions", "model", id)
    ]
    if not printed:
        return None
    limits_of = formatting.listed(printed)
    return Claimed(worded(METHODS, "bootstrap refits", what=limits_of, samples=SAMPLES))


def _causes(found: ReportInputs) -> Claimed | None:
    if printed_section(found, "candidates", "model", SectionId.CAUSES) is None:
        return None
    return Claimed(worded(METHODS, "each cause"))


def _proportional(found: ReportInputs) -> Claimed | None:
    if found.stage("model") is None or found.stage("check") is None or "checks" in found.left_out:
        return None
    return Claimed(worded(METHODS, "proportional hazards tested"), (sources.PROPORTIONALITY,))


def _not_checked(found: ReportInputs) -> Claimed | None:
    """The claim for a model whose checks nobody opened, or that has none."""
    if found.stage("model") is None or _proportional(found) is not None:
        return None
    check = found.results.get("check")
    if isinstance(check, CheckResult) and check.blank is not None:
        return Claimed(worded(METHODS, "proportional hazards refused", reason=check.refused))
    return Claimed(worded(METHODS, "proportional hazards not checked"))


def _optimism(found: ReportInputs) -> Claimed | None:
    if printed_section(found, "checks", "check", SectionId.OPTIMISM) is None:
        return None
    return Claimed(worded(METHODS, "optimism"), (sources.CONCORDANCE,))


CLAIMS = (
    Claim("regression", _regression, ("model",)),
    Claim("ties", _ties, ("model",)),
    Claim("penalty", _penalty, ("model",)),
    Claim("robust errors", _robust, ("model",)),
    Claim("profile intervals", _profile, ("model",)),
    Claim("concordance", _concordance, ("model",)),
    Claim("predictions", _predictions, ("model",)),
    Claim("bootstrap refits", _bootstrap, ("model",)),
    Claim("each cause", _causes, ("model",)),
    Claim("proportional hazards tested", _proportional, ("model", "check")),
    Claim("proportional hazards not checked", _not_checked, ("model", "check")),
    Claim("optimism", _optimism, ("check",)),
)
