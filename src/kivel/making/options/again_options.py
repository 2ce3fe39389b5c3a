"""Repeat the command that made a sheet or frames, with the frames that are there now. Options given here replace its
own.
"""

from __future__ import annotations

from kivel.making.options.groups.common_options import CommonOptions
from kivel.making.options.option import Option
from kivel.making.options.value_kinds import PATH, moved_path

__all__ = ["AGAIN_COMMANDS", "AgainOptions"]

AGAIN_COMMANDS = ("sheet", "atlas", "adopt", "slice", "prep", "resample", "layer", "loop", "scroll", "channels")
"""Says what makes a manifest that states by what it was made."""


class AgainOptions(CommonOptions):
    """Holds what is made again; the options that replace others are those of the command that made it."""

    title = "what"
    target: Option[str] = Option(
        PATH,
        "NAME.kivel.json, one of its images, or a folder of frames that Kivel wrote; then any options of the "
        "command that made it",
        default="",
        form="TARGET",
        positional=True,
        needed=True,
        from_folder=moved_path,
    )
