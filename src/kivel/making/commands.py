"""Every command that makes something, by its name: its options and its work, loaded when they are asked for."""

from __future__ import annotations

from importlib import import_module

TYPE_CHECKING = False  # typing itself takes a tenth of the time to --help
if TYPE_CHECKING:
    from collections.abc import Callable
    from typing import Any

    from kivel.making.options.common_options import CommonOptions
    from kivel.making.work import Work

__all__ = ["COMMANDS", "Command", "command"]

COMMANDS = {
    "inspect": "say what is there and what is odd about it",
    "prep": "prepare frames by a chain of steps",
    "loop": "say how well a sequence loops, find a loop, close one",
    "layer": "stack sequences frame by frame",
    "drift": "make a loop from a tile",
    "resample": "make fewer or more frames over the same motion",
    "plan": "say which layouts a sequence could have",
    "sheet": "put frames on a sheet, with a manifest",
    "atlas": "trim frames of any size and pack them on pages",
    "slice": "take a sheet apart into frames",
    "adopt": "write the manifest of a sheet as it is",
    "retime": "change how clips play",
    "trace": "say what shows when",
    "export": "write the numbers and steps for other programs",
    "profile": "describe an engine or a pack, for export",
    "check": "find what would go wrong in the engine",
    "preview": "make an animated image, a contact sheet or a chart",
    "play": "play in the terminal",
    "build": "make all that a recipe says, as far as it changed",
}
"""Each is a module of this package, `NAME.py`, with the class `NameOptions` and the function `make_name`."""
_TRIES = 20
_ELSEWHERE = {"build": "kivel.recipe"}
"""What is made of commands has a room of its own."""


class Command:
    """A command's options, its work, and what it says of itself."""

    def __init__(self, options: type[CommonOptions], make: Callable[..., Any], about: str) -> None:
        self.options = options
        self.make = make
        self.about = about

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
    module = import_module(f"{_ELSEWHERE.get(name, 'kivel.making')}.{name}")
    return Command(
        getattr(module, f"{name.capitalize()}Options"), getattr(module, f"make_{name}"), module.__doc__ or ""
    )
