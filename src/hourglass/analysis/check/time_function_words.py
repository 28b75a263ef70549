"""What each function of time is called, and what it does."""

from hourglass.core.regression.time_functions import TIME_FUNCTIONS

WORDS: dict[str, tuple[str, str]] = {
    "one minus survival": ("1 − survival", "events count alike, wherever they fall"),
    "time": ("time itself", "late events weigh more"),
    "log time": ("the logarithm of time", "early events weigh more"),
    "rank": ("the order of event times", "event times count alike"),
}
assert set(WORDS) == {g.key for g in TIME_FUNCTIONS}
