"""The figures of Check that can be worked out."""

from hourglass.analysis.check.calibration_workings import TENTH_OF_CALIBRATION
from hourglass.analysis.check.mean_at_risk import MEAN
from hourglass.analysis.check.proportionality_workings import SCALED, TEST
from hourglass.analysis.check.row_sheet import ROWS
from hourglass.analysis.check.row_workings import ROW
from hourglass.analysis.model.subjects import SUBJECTS

WORKINGS = (ROW, ROWS, SCALED, MEAN, TEST, TENTH_OF_CALIBRATION, SUBJECTS)
