"""Describes what a recipe says: things to be made, each from sources by steps to outputs."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any

from kivel.core.named_tuples import NamedTuple
from kivel.files.models import KeyPath
from kivel.files.toml_file import TomlFile

__all__ = ["FRAME_COMMANDS", "FROM", "FROM_REST", "MANIFEST_COMMANDS", "RECIPE_COMMANDS", "Act", "Recipe", "Thing"]

FRAME_COMMANDS = ("prep", "resample", "loop", "layer", "scroll", "channels", "slice")
"""Says what gives frames, in a folder."""
MANIFEST_COMMANDS = ("sheet", "atlas", "adopt")
"""Says what gives a sheet or an atlas, with its manifest."""
RECIPE_COMMANDS = (*FRAME_COMMANDS, *MANIFEST_COMMANDS, "retime", "export", "preview", "check")
"""Every command that a recipe may name: those that make something, and the check that may fail."""
FROM = {
    "layer": "base", "scroll": "tiles", "channels": "red", "retime": "manifest", "export": "manifests",
}  # fmt: skip
"""The option that takes what an act is of, where it is not `sources`."""
FROM_REST = {"layer": "over"}
"""The option that takes all of that but the first, where an act has one for each."""


class Act(NamedTuple):
    """A command with what is given to it, as it is in the file; `place` is where.

    `retimes` are changes to the clips of what it makes.
    """

    command: str
    given: Mapping[str, Any]
    place: KeyPath
    retimes: tuple[Act, ...] = ()


class Thing(NamedTuple):
    """One thing made: `sources` as they are written, steps from frames to frames, then outputs of what these give.

    Paths are relative to the folder of its own file.
    """

    name: str
    file: TomlFile
    sources: tuple[str, ...]
    steps: tuple[Act, ...]
    outputs: tuple[Act, ...]
    place: KeyPath


class Recipe(NamedTuple):
    """All of it. Files are written in `folder` and the folders `allowed` alone; `store_bytes` may be kept of steps.

    `globs` are the patterns by which names of things were found, and what was there.
    """

    folder: Path
    texts: tuple[TomlFile, ...]
    things: tuple[Thing, ...]
    allowed: tuple[Path, ...]
    store_bytes: int
    globs: tuple[tuple[str, list[str]], ...] = ()
