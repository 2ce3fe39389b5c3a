"""Every command that makes something, by its name: its options and its work, loaded when they are asked for."""

from __future__ import annotations

from importlib import import_module

TYPE_CHECKING = False  # typing itself takes a tenth of the time to --help
if TYPE_CHECKING:
    from collections.abc import Callable
    from typing import Any

    from kivel.making.options.groups.common_options import CommonOptions
    from kivel.making.work import Work

__all__ = ["COMMANDS", "ORDER_OF_WORK", "Command", "command"]

ORDER_OF_WORK = {
    "gather": {"inspect": "show what is there, and what is odd about it"},
    "prepare": {
        "prep": "prepare frames by a chain of steps: matte, trim, scale, colour, ...",
        "resample": "make fewer or more frames of the same motion",
        "loop": "check how well frames loop, find a loop, or close one",
        "layer": "stack sequences frame by frame",
        "scroll": "make a looping sequence from a scrolling tile",
        "channels": "make one sequence with each channel from another",
    },
    "lay out": {
        "plan": "list the sheet layouts that a sequence could have",
        "sheet": "put frames on a sheet (flipbook, strip), with a manifest",
        "atlas": "trim frames of any size and pack them tight on pages",
        "slice": "take a sheet apart into frames",
        "adopt": "describe an existing sheet in a manifest, without changing it",
        "again": "repeat the command that made a sheet or frames",
    },
    "time": {
        "retime": "change how clips play: holds, order, repeat, direction",
        "timeline": "list which frame shows at what time",
    },
    "look and check": {
        "preview": "make an animated image, contact sheet, chart or viewer page",
        "play": "play in the terminal",
        "check": "find what would go wrong in the engine",
    },
    "hand over": {
        "export": "write tables, CSS, shaders, glTF, KTX, or a whole pack",
        "profile": "describe what an engine or pack wants, for export",
    },
    "whole projects": {"build": "build everything in a recipe that is out of date"},
}
"""Says what each command does. Each has its options in `options/NAME_options.py`, and `make_NAME` in a room."""
COMMANDS = {name: about for group in ORDER_OF_WORK.values() for name, about in group.items()}
_ROOMS = {
    "kivel.making": ("again",),
    "kivel.making.looking": ("inspect", "preview", "play"),
    "kivel.making.frames": ("prep", "loop", "layer", "scroll", "channels", "resample"),
    "kivel.making.sheets": ("plan", "sheet"),
    "kivel.making.atlases": ("atlas",),
    "kivel.making.cutting": ("slice", "adopt"),
    "kivel.making.playback": ("retime", "timeline"),
    "kivel.making.exports": ("export", "profile"),
    "kivel.making.checking": ("check",),
    "kivel.recipe": ("build",),
}
_ROOM_OF = {name: room for room, names in _ROOMS.items() for name in names}
_TRIES = 20


class Command:
    """A command's options and what it says of itself; its work is loaded when it is run."""

    def __init__(self, name: str, options: type[CommonOptions], about: str) -> None:
        self.name = name
        self.options = options
        self.about = about

    @property
    def make(self) -> Callable[..., Any]:
        """Return what does the work, from options and a `Work`."""
        module = import_module(f"{_ROOM_OF[self.name]}.{self.name}")
        return getattr(module, f"make_{self.name}")  # type: ignore[no-any-return]

    def run(self, options: CommonOptions, work: Work, **more: Any) -> Any:
        """Do the work within its limits, in folders where nothing is left half-made by runs that were cut short.

        Where a set that it reads is replaced meanwhile, it is done again, as long as it has written nothing.
        """
        from kivel.core.room import limited
        from kivel.files.safety import whatever_the_system_says
        from kivel.files.whole_sets import ReplacedError, require_unreplaced, whole_sets
        from kivel.making.half_made import settle_half_made

        with limited(options.pixel_limit), whatever_the_system_says():
            noted = len(work.notes)
            for left in reversed(range(_TRIES)):
                del work.notes[noted:]
                settle_half_made(options, work)
                try:
                    with whole_sets():
                        made = self.make(options, work, **more)
                        if not work.files:
                            require_unreplaced()
                    return made
                except ReplacedError:
                    if not left or work.files:
                        raise
            raise AssertionError("the last try ends it")


def command(name: str) -> Command:
    """One of `COMMANDS`."""
    room = "kivel.recipe" if name == "build" else "kivel.making.options"
    module = import_module(f"{room}.{name}_options")
    return Command(name, getattr(module, f"{name.capitalize()}Options"), module.__doc__ or "")
