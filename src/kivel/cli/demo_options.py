"""What `kivel demo` can be told."""

from __future__ import annotations

from kivel.making.options.groups.output_options import WritingOptions
from kivel.making.options.option import Option
from kivel.making.options.value_kinds import PATH

__all__ = ["ABOUT", "DemoOptions"]

ABOUT = """Draw art of "Mothlight Orchard", a made-up game, and run a short example on it. Each command is printed."""
_FOLDER = "mothlight-orchard"


class DemoOptions(WritingOptions):
    """Where the demo goes."""

    folder: Option[str] = Option(
        PATH, "folder to write to", default=_FOLDER, form="DIR", shown=f"./{_FOLDER}", positional=True
    )
    dry_run = WritingOptions.dry_run.but(direct=True)
