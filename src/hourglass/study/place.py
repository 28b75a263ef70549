"""Where the program lies: in a checkout of its sources, or installed with all that it needs beside it."""

from importlib.util import find_spec
from pathlib import Path

PACKAGE = Path(__file__).parents[1]
_ROOT = PACKAGE.parents[1]
CHECKOUT = _ROOT if (_ROOT / "web" / "package.json").is_file() else None
"""The checkout that the program runs from, with its tests and what the client is built from; else None."""
DEMO = PACKAGE / "demo" if CHECKOUT is None else CHECKOUT / "demo"
"""The demo studies and their files."""
CLIENT = PACKAGE / "client" if CHECKOUT is None else CHECKOUT / "web" / "dist"
"""The client, built."""
INTERFACE = "interface"
"""The folder of the client that holds the scripts of the page of the interface."""
INTERFACE_FILES = ("swagger-ui.css", "swagger-ui-bundle.js")
LAYS_OUT_PAGES = find_spec("weasyprint") is not None
"""Whether the extra that lays out pages to print is installed."""
COMMAND = "hourglass" if CHECKOUT is None else "./hourglass"
"""What is typed to run it."""
