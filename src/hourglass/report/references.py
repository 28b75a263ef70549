"""The papers and books that the methods come from, as they are cited."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Reference:
    """A source: how it is named in a sentence, and in full."""

    named: str
    full: str


PRODUCT_LIMIT = Reference(
    "Kaplan & Meier 1958",
    "Kaplan EL, Meier P. Nonparametric estimation from incomplete observations. Journal of the "
    "American Statistical Association 1958; 53: 457–481.",
)
CUMULATIVE_HAZARD = Reference(
    "Aalen 1978",
    "Aalen O. Nonparametric inference for a family of counting processes. Annals of Statistics 1978; "
    "6: 701–726.",
)
GREENWOOD = Reference(
    "Greenwood 1926",
    "Greenwood M. The natural duration of cancer. Reports on Public Health and Medical Subjects 1926; 33: "
    "1–26.",
)
SPREAD_TIES = Reference(
    "Fleming & Harrington 1984",
    "Fleming TR, Harrington DP. Nonparametric estimation of the survival distribution in censored data. "
    "Communications in Statistics – Theory and Methods 1984; 13: 2469–2486.",
)
HALL_WELLNER_BAND = Reference(
    "Hall & Wellner 1980",
    "Hall WJ, Wellner JA. Confidence bands for a survival curve from censored data. Biometrika 1980; 67: "
    "133–143.",
)
EQUAL_PRECISION_BAND = Reference(
    "Nair 1984",
    "Nair VN. Confidence bands for survival functions with censored data: a comparative study. "
    "Technometrics 1984; 26: 265–275.",
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
LOG_RANK = Reference(
    "Mantel 1966",
    "Mantel N. Evaluation of survival data and two new rank order statistics arising in its "
    "consideration. Cancer Chemotherapy Reports 1966; 50: 163–170.",
)
AT_RISK_WEIGHT = Reference(
    "Gehan 1965",
    "Gehan EA. A generalized Wilcoxon test for comparing arbitrarily singly-censored samples. "
    "Biometrika 1965; 52: 203–223.",
)
ROOT_WEIGHT = Reference(
    "Tarone & Ware 1977",
    "Tarone RE, Ware J. On distribution-free tests for equality of survival distributions. Biometrika "
    "1977; 64: 156–160.",
)
SURVIVAL_WEIGHT = Reference(
    "Peto & Peto 1972",
    "Peto R, Peto J. Asymptotically efficient rank invariant test procedures. Journal of the Royal "
    "Statistical Society A 1972; 135: 185–207.",
)
POWER_WEIGHT = Reference(
    "Fleming & Harrington 1991",
    "Fleming TR, Harrington DP. Counting Processes and Survival Analysis. New York: Wiley, 1991.",
)
COMPETING_CURVES = Reference(
    "Aalen & Johansen 1978",
    "Aalen OO, Johansen S. An empirical transition matrix for non-homogeneous Markov chains based on "
    "censored observations. Scandinavian Journal of Statistics 1978; 5: 141–150.",
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
TIES_OF_EFRON = Reference(
    "Efron 1977",
    "Efron B. The efficiency of Cox’s likelihood function for censored data. Journal of the American "
    "Statistical Association 1977; 72: 557–565.",
)
TIES_OF_BRESLOW = Reference(
    "Breslow 1974",
    "Breslow N. Covariance analysis of censored survival data. Biometrics 1974; 30: 89–99.",
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
