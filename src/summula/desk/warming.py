"""What first deeds will need, read in while nobody waits for it: call this in a worker, once a window is there."""

from __future__ import annotations

import importlib
import pkgutil

# What is opened, answered and drawn; formats and readers of rare files bring libraries that many never ask for.
_ROOMS = (
    "core.language", "core.engine", "core.boards", "core.charts", "core.grids", "core.phrases", "core.slicing",
    "core.statistics", "core.secondlook", "core.theme", "desk",
)  # fmt: skip


def warm_parser() -> None:
    """Make the parser ready: the first phrase then need not wait for it."""
    from summula.core.language.parsetable import parser

    parser()


def warm() -> None:
    """The parser, the rooms that a window opens without, the library of steps, and the reader of notes."""
    from summula.core.sandbox.asking import warm as warm_reading

    warm_reading()
    warm_parser()
    for room in _ROOMS:
        package = importlib.import_module(f"summula.{room}")
        for module in pkgutil.walk_packages(package.__path__, f"{package.__name__}."):
            importlib.import_module(module.name)
    for module_name in ("reading.readers", "preparation.doing"):  # a quarter of a second, for polars
        importlib.import_module(f"summula.core.{module_name}")
    importlib.import_module("summula.core.preparation.formula").growth("1")
    importlib.import_module("summula.core.boards.notetext").blocks_of("")
