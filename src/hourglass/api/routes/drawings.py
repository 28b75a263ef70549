"""More of a figure than is sent at first: other windows and tracks, exact values, tables."""

from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from fastapi import Path as PathParameter
from pydantic import Field, model_validator

from hourglass.analysis.shared.figure.description import Figure
from hourglass.analysis.shared.figure.drawing import COLUMNS, Window, drawn
from hourglass.analysis.shared.figure.figure_settings import (
    Arrangement,
    GroupStyle,
    Length,
    ShownTrack,
    arranged,
)
from hourglass.analysis.shared.figure.table import (
    MAX_ROWS,
    FigureTable,
    FigureTablePage,
    figure_tables,
    lines_of,
    page_of,
)
from hourglass.analysis.shared.frozen_model import FrozenModel
from hourglass.analysis.shared.sent import Drawing
from hourglass.api.changes import Change
from hourglass.api.downloads import Between, lines_between
from hourglass.api.found_study import FoundStudy
from hourglass.api.problems import ProblemError
from hourglass.api.state import State
from hourglass.report.print.figure import Printable
from hourglass.report.print.files import MEDIA, print_figures
from hourglass.report.print.settings import FileFormat, PrintSettings
from hourglass.study.commands.figures import set_figure, set_group_style, set_tracks
from hourglass.study.results import NoSuchDrawingError
from hourglass.study.study import Study

router = APIRouter(tags=["figures"], prefix="/api/studies/{study_id}")
DRAWING = "/drawings/{drawing}"
"""An address names its drawing by what is in it, so what it answers never changes."""
View = Annotated[str, PathParameter(max_length=100)]
Tracks = Annotated[list[str], Field(max_length=100, default_factory=list)]


class WindowQuery(FrozenModel):
    """A part of a figure: from ``low`` to ``high``, for so many pixels across, some of its tracks."""

    low: Annotated[float, Field(allow_inf_nan=False)]
    high: Annotated[float, Field(allow_inf_nan=False)]
    columns: Annotated[int, Field(ge=50, le=4000)] = COLUMNS
    tracks: Tracks
    proportion: Tracks
    fitted: Tracks
    switched: Tracks
    every: Length | None = None

    @model_validator(mode="after")
    def _ascending(self) -> "WindowQuery":
        if not self.high > self.low:
            raise ValueError("the end must lie after the start")
        return self


class TableQuery(FrozenModel):
    """Some rows of one of the tables behind a figure, of some of its tracks."""

    which: Annotated[int, Field(ge=0)] = 0
    first: Annotated[int, Field(ge=0)] = 0
    most: Annotated[int, Field(ge=1, le=MAX_ROWS)] = 200
    tracks: Tracks


class TableFileQuery(TableQuery):
    """And whether it is for a file, or for the clipboard."""

    between: Between = "commas"


class PrintedFigure(FrozenModel):
    """A figure with how it is to be printed."""

    drawing: str
    settings: PrintSettings


class PrintBody(FrozenModel):
    """Figures to be printed in one file, with letters where there are several; ``across`` stand in a row."""

    form: FileFormat
    across: Annotated[int, Field(ge=1, le=2)] = 1
    figures: Annotated[list[PrintedFigure], Field(min_length=1, max_length=12)]


@router.get(DRAWING + "/figure")
def figure_window(
    request: Request, study: FoundStudy, drawing: str, query: Annotated[WindowQuery, Query()]
) -> Figure:
    """Some tracks of a figure over a window, thinned to what its pixels can show."""
    whole = _figure(_drawing(request, study, drawing))
    low, high = max(query.low, whole.low), min(query.high, whole.high)
    if not high > low:
        raise ProblemError(
            422, "outside", "Outside the figure", "The window lies outside the figure."
        )
    how = Arrangement(query.proportion, query.fitted, query.switched, query.every)
    window = Window(low, high, query.columns, frozenset(query.tracks))
    found = drawn(arranged(whole, how), window)
    return found if found.time is None else found.model_copy(update={"time": None})


@router.get(DRAWING + "/series/{key}/{page}", response_class=Response)
def series_page(request: Request, study: FoundStudy, drawing: str, key: int, page: int) -> Response:
    """A page of a long series: its times, then each of its columns, as little-endian doubles."""
    series = _drawing(request, study, drawing).series
    if not 0 <= key < len(series) or page < 0:
        raise ProblemError(
            404, "no-such-series", "No such series", "The figure has no such series."
        )
    body = series[key].page(page)
    return Response(body, media_type="application/octet-stream")


@router.get(DRAWING + "/table")
def figure_table(
    request: Request, study: FoundStudy, drawing: str, query: Annotated[TableQuery, Query()]
) -> FigureTablePage:
    """Rows of a table behind the figure, every number with all its digits."""
    tables = _tables(request, study, drawing, query)
    return page_of(tables, query.which, query.first, query.most)


@router.get(DRAWING + "/table.csv", response_class=Response)
def figure_table_csv(
    request: Request, study: FoundStudy, drawing: str, query: Annotated[TableFileQuery, Query()]
) -> Response:
    """A whole table behind the figure as text, every number with all its digits."""
    table = _tables(request, study, drawing, query)[query.which]
    return lines_between(query.between, list(lines_of(table)), study.name, table.title)


@router.post("/figures", response_class=Response)
def print_file(request: Request, study: FoundStudy, body: PrintBody) -> Response:
    """Print figures as one file; the same request gives the same bytes."""
    group_styles = study.group_styles
    figures = [
        Printable(_figure(_drawing(request, study, one.drawing)), one.settings, group_styles)
        for one in body.figures
    ]
    return Response(
        print_figures(figures, body.form, across=body.across), media_type=MEDIA[body.form]
    )


@router.get("/figures/{view}")
def figure_settings(request: Request, study: FoundStudy, view: View) -> PrintSettings:
    """How the figure of a view was last printed, its axes as the view has them now."""
    kept = PrintSettings.model_validate(study.snapshot.figures.get(view, {}))
    return kept.arranged(study.tracks.get(view, ()), view)


@router.put("/figures/{view}", status_code=204)
def put_figure_settings(
    request: Request, change: Change, view: View, settings: PrintSettings
) -> None:
    """Keep how the figure of a view is printed."""
    state: State = request.app.state.hourglass
    kept = settings.model_dump(mode="json")
    usual = PrintSettings().model_dump(mode="json")
    change.carry_out(lambda study: set_figure(state.repository, study, view, kept, usual))


@router.put("/tracks/{view}", status_code=204)
def put_tracks(
    request: Request,
    change: Change,
    view: View,
    shown: Annotated[list[ShownTrack], Field(max_length=100)],
) -> None:
    """State which tracks a view shows, in their order, with their heights."""
    state: State = request.app.state.hourglass
    tracks = [track.model_dump(exclude_defaults=True) for track in shown]
    change.carry_out(lambda study: set_tracks(state.repository, study, view, tracks))


@router.put("/group-styles/{view}", status_code=204)
def put_group_style(request: Request, change: Change, view: View, style: GroupStyle) -> None:
    """State how a group is drawn."""
    state: State = request.app.state.hourglass
    kept = style.model_dump(mode="json")
    change.carry_out(
        lambda study: set_group_style(state.repository, study, view, style.group, kept)
    )


def _drawing(request: Request, study: Study, key: str) -> Drawing:
    state: State = request.app.state.hourglass
    try:
        return state.results.drawing(study, key)
    except NoSuchDrawingError:
        raise ProblemError(
            410, "replaced", "Replaced", "This figure has been replaced by a newer one: reload."
        ) from None


def _figure(drawing: Drawing) -> Figure:
    if drawing.figure is None:
        raise ProblemError(404, "no-figure", "No figure", "This result has no figure.")
    return drawing.figure


def _tables(request: Request, study: Study, drawing: str, query: TableQuery) -> list[FigureTable]:
    tables = figure_tables(_figure(_drawing(request, study, drawing)), frozenset(query.tracks))
    if query.which >= len(tables):
        raise ProblemError(404, "no-such-table", "No such table", "The figure has no such table.")
    return tables
