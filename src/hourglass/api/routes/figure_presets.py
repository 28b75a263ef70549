"""Settings of printed figures that are kept for all studies, such as those of a journal."""

from typing import Annotated

from fastapi import APIRouter, Path, Request

from hourglass.api.state import State
from hourglass.report.print.settings import FigurePreset, PageSettings

router = APIRouter(tags=["figures"], prefix="/api/figure-presets")
Name = Annotated[str, Path(min_length=1, max_length=100)]


@router.get("")
def figure_presets(request: Request) -> list[FigurePreset]:
    """The presets there are, by name."""
    state: State = request.app.state.hourglass
    return [
        FigurePreset(name=name, settings=PageSettings.model_validate(settings))
        for name, settings in state.repository.figure_presets().items()
    ]


@router.put("/{name}", status_code=204)
def put_figure_preset(request: Request, name: Name, settings: PageSettings) -> None:
    """Keep settings under a name, in place of others of that name."""
    state: State = request.app.state.hourglass
    state.repository.put_figure_preset(name, settings.model_dump(mode="json"))


@router.delete("/{name}", status_code=204)
def delete_figure_preset(request: Request, name: Name) -> None:
    """Keep a preset no longer."""
    state: State = request.app.state.hourglass
    state.repository.delete_figure_preset(name)
