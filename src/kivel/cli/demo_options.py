"""Describes what `kivel demo` can be told."""

from __future__ import annotations

from typing import ClassVar

from kivel.making.options.groups.output_options import WritingOptions
from kivel.making.options.option import Option
from kivel.making.options.value_kinds import FLAG, PATH, choice

__all__ = ["ABOUT", "DemoOptions"]

ABOUT = """Draw art of "Mothlight Orchard", a made-up game, and run a short example on it. Each command is printed."""
_FOLDER = "mothlight-orchard"


class DemoOptions(WritingOptions):
    """Where the demo goes, and which story it tells."""

    exclusive: ClassVar = (("tour", "all"),)
    folder: Option[str] = Option(
        PATH, "folder to write to", default=_FOLDER, form="DIR", shown=f"./{_FOLDER}", positional=True
    )
    tour: Option[str | None] = Option(
        choice("effects", "pixel-art", "sheets", "maps", "pack", "engine", "project"),
        "run the tour of one task instead of the short story", default=None, form="TASK",
    )  # fmt: skip
    all: Option[bool] = Option(FLAG, "run every tour", default=False)
    dry_run = WritingOptions.dry_run.but(direct=True)
