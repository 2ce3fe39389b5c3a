"""What `kivel demo` can be told."""

from __future__ import annotations

from kivel.making.options.groups.output_options import WritingOptions
from kivel.making.options.option import Option
from kivel.making.options.value_kinds import PATH

__all__ = ["ABOUT", "DemoOptions"]

ABOUT = """Draw the art of "Mothlight Orchard", a made-up game, and run a full example on it, printing each command."""
_FOLDER = "mothlight-orchard"


class DemoOptions(WritingOptions):
    """Where the demo goes."""

    folder: Option[str] = Option(PATH, "where", default=_FOLDER, form="DIR", shown=f"./{_FOLDER}", positional=True)
    force = WritingOptions.force.but(help="overwrite files there that were edited")
    dry_run = WritingOptions.dry_run.but(direct=True)
