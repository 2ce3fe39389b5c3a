"""Describes what made a manifest, once more: its command and options, some replaced, with the frames that are there
now.
"""

from __future__ import annotations

import os
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from kivel.core.errors import KivelError, UsageError
from kivel.core.named_tuples import NamedTuple
from kivel.core.suggestions import did_you_mean
from kivel.core.wording import first_few
from kivel.files.manifest.model import Made
from kivel.files.manifest.names import ManifestError
from kivel.files.manifest.parsing import read_manifest
from kivel.files.ownership import manifest_for
from kivel.files.safety import shown
from kivel.making.commands import Command, command
from kivel.making.options.again_options import AGAIN_COMMANDS, AgainOptions
from kivel.making.options.option import Option
from kivel.making.work import Work
from kivel.sequences.reconciling.described_folders import known_manifests

__all__ = ["AgainMade", "MadeBefore", "made_before", "make_again"]

_WRITES = {"adopt": "sources"}
"""The option beside `out` that says where something is written: beside its sheets."""


class AgainMade(NamedTuple):
    """The command that was done again, its options, and what it made."""

    command: str
    options: Any
    made: Any


class MadeBefore(NamedTuple):
    """The command that made a manifest, and what was given to it, paths as they are seen from here."""

    path: Path
    command: Command
    given: Mapping[str, Any]

    def replaced(self, given: Mapping[str, Any]) -> dict[str, Any]:
        """Return what is to be given now; what contradicts a new option goes with the old ones."""
        groups = self.command.options.excluding()
        against = {name for names in groups if any(one in given for one in names) for name in names}
        return {**{name: value for name, value in self.given.items() if name not in against}, **given}


def make_again(options: AgainOptions, work: Work, instead: Mapping[str, Any] | None = None) -> AgainMade:
    """Make it again; `instead` has options of its command, by their names, in place of those that made it.

    Raises
    ------
    KivelError
        If nothing says how it was made, or that cannot be done any more.
    """
    before = made_before(options.target)
    common = {name: options.values[name] for name in ("jobs", "max-pixels") if options.given(name)}
    stated = before.replaced({**common, **(instead or {})})
    work.is_again = True
    inner = before.command.options.of(stated, door="command")  # the old ones are texts, as they are typed
    return AgainMade(before.command.name, inner, before.command.run(inner, work))


def made_before(target: str) -> MadeBefore:
    """Return how a manifest was made, that of an image, or the one in a folder.

    Raises
    ------
    ManifestError
        If there is none, or several, or it does not say how it was made.
    """
    path = _manifest_at(Path(target))
    made = read_manifest(path).made
    if made is None:
        raise ManifestError("it does not say how it was made; run the command itself", where=shown(path))
    if made.command not in AGAIN_COMMANDS:
        raise ManifestError(f"was made by {made.command!r}, not by {', '.join(AGAIN_COMMANDS)}", where=shown(path))
    one = command(made.command)
    return MadeBefore(path, one, _as_given(made, one.options.declared(), path))


def _manifest_at(path: Path) -> Path:
    if not path.is_dir():
        return manifest_for(path)
    known = [found for found, manifest in known_manifests(path) if manifest.made]
    if len(known) != 1:
        several = f"it holds several manifests: {first_few([one.name for one in known])}; name one"
        raise ManifestError(several if known else "no manifest in it says how it was made", where=shown(path))
    return known[0]


def _as_given(made: Made, declared: Mapping[str, Option[Any]], path: Path) -> dict[str, Any]:
    """The options as they would be given here: paths that led from the manifest lead from the current folder."""
    given = {}
    for name, value in made.options.items():
        if name not in declared or not declared[name].kept:
            meant = did_you_mean(name, [one.name for one in declared.values() if one.kept])
            raise ManifestError(f"made.options: {made.command} has no option {name!r} here{meant}", where=shown(path))
        one = declared[name]
        try:
            texts = one.texts(value, typed=True)
        except UsageError as error:
            raise ManifestError(f"made.options.{name}: {error.message}", where=shown(path)) from error
        if name in ("out", _WRITES.get(made.command)):
            for text in texts:
                _require_inside(text, name, path)
        if one.from_folder:
            texts = [one.from_folder(text, lambda inner: _from_here(inner, path)) for text in texts]
        given[name] = value if one.is_flag else texts if one.many or len(texts) > 1 else texts[0]
    return given


def _from_here(text: str, path: Path) -> str:
    return Path(os.path.normpath(path.parent / text)).as_posix()


def _require_inside(text: str, name: str, path: Path) -> None:
    """Nothing in a manifest makes anybody write elsewhere than where it lies, nor does a link that came with it."""
    inside = Path(os.path.normpath(text))
    place = path.parent / (inside.parent if name == "sources" else inside)  # beside an image, whatever that links to
    led_out = not Path(os.path.realpath(place)).is_relative_to(os.path.realpath(path.parent))
    if led_out or inside.is_absolute() or ".." in inside.parts or "\\" in text or ":" in text:
        raise KivelError(
            f"made.options.{name}: {text!r} leads out of its folder; run the command itself", where=shown(path)
        )
