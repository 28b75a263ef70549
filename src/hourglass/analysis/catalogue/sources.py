"""The papers and books that the methods come from, as they are cited."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Reference:
    """A source: how it is named in a sentence, and in full."""

    named: str
    full: str


CUMULATIVE_HAZARD = Reference(
    "Aalen 1978",
    "Aalen O. Nonparametric inference for a family of counting processes. Annals of Statistics 1978; "
    "6: 701–726.",
)
POISSON_INTERVAL = Reference(
    "Garwood 1936",
    "Garwood F. Fiducial limits for the Poisson distribution. Biometrika 1936; 28: 437–442.",
)
CHOSEN_TIMES = Reference(
    "Klein, Logan, Harhoff & Andersen 2007",
    "Klein JP, Logan B, Harhoff M, Andersen PK. Analyzing survival curves at a fixed point in time. "
    "Statistics in Medicine 2007; 26: 4505–4519.",
)
NUMBER_NEEDED = Reference(
    "Altman & Andersen 1999",
    "Altman DG, Andersen PK. Calculating the number needed to treat for trials where the outcome is time "
    "to an event. BMJ 1999; 319: 1492–1495.",
)
COMBINED_WEIGHTS = Reference(
    "Lee 2007",
    "Lee S-H. On the versatility of the combination of the weighted log-rank statistics. Computational "
    "Statistics & Data Analysis 2007; 51: 6557–6564.",
)
PREDICTED_SURVIVAL = Reference(
    "Tsiatis 1981",
    "Tsiatis AA. A large sample study of Cox’s regression model. Annals of Statistics 1981; 9: 93–108.",
)
TRANSFORMED_INTERVALS = Reference(
    "Borgan & Liestøl 1990",
    "Borgan Ø, Liestøl K. A note on confidence intervals and bands for the survival function based on "
    "transformations. Scandinavian Journal of Statistics 1990; 17: 35–41.",
)
MEDIAN_INTERVAL = Reference(
    "Brookmeyer & Crowley 1982",
    "Brookmeyer R, Crowley J. A confidence interval for the median survival time. Biometrics 1982; "
    "38: 29–41.",
)
MEDIAN_FOLLOW_UP = Reference(
    "Schemper & Smith 1996",
    "Schemper M, Smith TL. A note on quantifying follow-up in studies of failure time. Controlled "
    "Clinical Trials 1996; 17: 343–346.",
)
COMPETING_TEST = Reference(
    "Gray 1988",
    "Gray RJ. A class of K-sample tests for comparing the cumulative incidence of a competing risk. "
    "Annals of Statistics 1988; 16: 1141–1154.",
)
HAZARDS_MODEL = Reference(
    "Cox 1972",
    "Cox DR. Regression models and life-tables. Journal of the Royal Statistical Society B 1972; 34: "
    "187–220.",
)
PENALTY = Reference(
    "Firth 1993",
    "Firth D. Bias reduction of maximum likelihood estimates. Biometrika 1993; 80: 27–38.",
)
ROBUST_ERRORS = Reference(
    "Lin & Wei 1989",
    "Lin DY, Wei LJ. The robust inference for the Cox proportional hazards model. Journal of the "
    "American Statistical Association 1989; 84: 1074–1078.",
)
PROPORTIONALITY = Reference(
    "Grambsch & Therneau 1994",
    "Grambsch PM, Therneau TM. Proportional hazards tests and diagnostics based on weighted residuals. "
    "Biometrika 1994; 81: 515–526.",
)
CONCORDANCE = Reference(
    "Harrell, Lee & Mark 1996",
    "Harrell FE, Lee KL, Mark DB. Multivariable prognostic models: issues in developing models, "
    "evaluating assumptions and adequacy, and measuring and reducing errors. Statistics in Medicine "
    "1996; 15: 361–387.",
)
