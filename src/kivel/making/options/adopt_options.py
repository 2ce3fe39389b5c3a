"""Describe an existing sheet, or a folder of frames, in a manifest. No pixel moves."""

from __future__ import annotations

import re
from pathlib import Path
from typing import ClassVar

from kivel.core.errors import UsageError, option
from kivel.files.manifest.names import is_manifest_name
from kivel.making.options.groups.clip_options import ClipNameOptions, ClipOptions
from kivel.making.options.groups.cut_options import SheetCutOptions
from kivel.making.options.groups.output_options import OutputOptions
from kivel.making.options.option import Option
from kivel.making.options.value_kinds import ValueKind

__all__ = ["AdoptOptions"]

_FIELDS = ("row", "column", "number", "name", "clip")
_OF_ONE = ("row-clips", "find-again")
"""Options that say something of a single picture."""
_FIELD = re.compile(r"\{(?:name|clip|(?:row|column|number)(?::0[1-9])?)\}")


def _pattern(text: str) -> str:
    """A pattern of names that asks for nothing but what a frame has, numbers perhaps with zeros before: {row:02}."""
    if set("{}") & set(_FIELD.sub("", text)):
        known = ", ".join(f"{{{field}}}" for field in _FIELDS)
        raise UsageError(f"expected a name with {known} in it, like walk_{{row}}_{{column:02}}, found {text!r}")
    return text


_PATTERN: ValueKind[str] = ValueKind("PATTERN", _pattern)


class AdoptOptions(SheetCutOptions, ClipOptions, ClipNameOptions):
    """A sheet as it is."""

    title = "frames"
    command: ClassVar = "adopt"
    everyday: ClassVar = (
        "columns", "rows", "cell", "gap", "margin", "at", "islands", "regions", "like", "pick", "look", "names",
        "row-clips", "make-clip", "map", "fps", "repeat", "pivot", "force",
    )  # fmt: skip
    sources: Option[tuple[str, ...]] = SheetCutOptions.sources.but(help="sheets, or folders of frames")
    out = OutputOptions.out.but(
        form="NAME.kivel.json", shown="beside each picture; one for all puts them together", group="output"
    )
    names: Option[str | None] = Option(
        _PATTERN,
        'frame names: "walk_{row}_{column}"; also {number}, {name} of the picture, {clip} of the row; they count '
        "from 0",
        default=None,
        shown="{name}_{number:04}",
    )

    def check(self) -> None:
        super().check()
        if not self.out:
            return
        if not is_manifest_name(Path(self.out)):
            raise UsageError(f"expected a name that ends in .kivel.json, found {self.out!r}")
        for name in _OF_ONE:
            if self.given(name) and len(self.sources) > 1:
                raise UsageError(f"{option(name)} works on one picture; {option('out')} joins {len(self.sources)}")
