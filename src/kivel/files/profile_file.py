"""A profile: how one engine or pack wants sheets, in a TOML file that is the user's own."""

from __future__ import annotations

import re
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Literal

import msgspec

from kivel.core.errors import KivelError
from kivel.core.exporting.name_patterns import filled_name, pattern_fields
from kivel.core.fields import From1
from kivel.core.motion.motion_forms import MotionForm
from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import Fade, Fill
from kivel.core.playback.notation import parse_rate
from kivel.files.documents import TomlError
from kivel.files.models import KeyPath
from kivel.files.safety import OutputError, file_text
from kivel.files.toml_file import TomlFile, read_toml_file

__all__ = [
    "EACH",
    "PATTERN_FIELDS",
    "ImageRules",
    "Lacks",
    "MapRule",
    "OutputRule",
    "ProfileFile",
    "ProfileRules",
    "Requirements",
    "Units",
    "read_profile",
]

_MOST_BYTES = 4 << 20

Each = Literal["pack", "sheet", "clip", "group", "frame", "map"]
EACH: dict[Each, tuple[str, ...]] = {
    "pack": (),
    "sheet": ("name", "folder", "image", "stem", "clip"),
    "clip": ("name", "folder", "image", "stem", "clip", "group"),
    "group": ("name", "folder", "image", "stem", "group"),
    "frame": ("name", "folder", "image", "stem", "frame", "index"),
    "map": ("name", "folder", "image", "stem", "clip", "map"),
}
"""Says what an output is written for, and the fields that its name may have."""
PATTERN_FIELDS = ("name", "folder", "clip", "group", "map", "page")
"""The fields of an image's name."""
_SAMPLE = dict.fromkeys({*PATTERN_FIELDS, *(field for fields in EACH.values() for field in fields)}, "x")


class _Table(msgspec.Struct, forbid_unknown_fields=True):
    """A table in which unknown keys are errors."""


class Units(_Table):
    """How times, indices and texture coordinates are counted."""

    time: Literal["seconds", "ticks"] = "seconds"
    timebase: str | int | None = None
    first_index: Literal[0, 1] = 0
    origin: Literal["top", "bottom"] = "top"
    half_texel: bool = False

    @property
    def rate(self) -> Fraction | None:
        """Ticks a second, where times are ticks."""
        return None if self.time == "seconds" else parse_rate(str(self.timebase))


class ImageRules(_Table):
    """Holds what becomes of a sheet's pages; without `file` they stay where they are and are referred to."""

    file: str | None = None
    each: Literal["sheet", "clip"] = "sheet"
    layout: Literal["keep", "row", "column", "grid"] = "keep"
    columns: From1 | None = None
    rows: From1 | None = None
    fill: Fill = "across"
    cells: Literal["frames", "steps"] = "frames"


class MapRule(_Table):
    """Where a companion map goes, and whether there must be one; of a map of motion, how its vectors are stored."""

    file: str
    required: bool = False
    at: Literal["middle", "earlier"] | None = None
    leads: Literal["forward", "backward"] | None = None
    y: Literal["down", "up"] | None = None
    reach: float | None = None
    channels: str | None = None

    def motion_form(self) -> MotionForm | None:
        """How vectors are to be stored, if anything says so."""
        names = ("at", "leads", "y", "reach", "channels")
        stated = {name: getattr(self, name) for name in names if getattr(self, name) is not None}
        return MotionForm(**stated) if stated else None


class Requirements(_Table):
    """Holds what images must be."""

    one_row: bool = False
    square_frames: bool = False
    powers_of_two: bool = False
    divided: bool = False
    equal_holds: bool = False
    largest_side: From1 | None = None
    pages: From1 | None = None
    frames: tuple[int, int] | None = None


class Lacks(_Table):
    """Holds what happens where the target has no word for something: `keep` hands it to the template."""

    blending: Literal["keep", "tell", "refuse"] = "keep"
    phase: Literal["keep", "write-out", "tell", "refuse"] = "keep"
    unequal_holds: Literal["keep", "write-out", "refuse"] = "keep"
    repeat: Literal["keep", "tell", "refuse"] = "keep"
    end: Literal["keep", "tell", "refuse"] = "keep"
    then: Literal["keep", "tell", "refuse"] = "keep"
    events: Literal["keep", "tell", "refuse"] = "keep"
    turned_frames: Literal["keep", "tell", "refuse"] = "keep"
    other_maps: Literal["keep", "tell", "refuse"] = "tell"


class OutputRule(_Table):
    """A file that is written from a template, for the whole pack or each of something, `when` an expression holds."""

    file: str
    each: Each = "sheet"
    when: str | None = None
    template: str | None = None
    template_file: str | None = None
    encoding: Literal["utf-8", "utf-8-sig", "utf-16", "utf-16-le", "utf-16-be", "ascii", "latin-1", "cp1252"] = "utf-8"
    line_ends: Literal["lf", "crlf"] = "lf"
    schema: str | None = None


class ProfileRules(_Table):
    """All that a profile says.

    `fade` is how the target cross-fades; `range` has, by what is meant (`step.hold`), the least and the most that may
    be.
    """

    format: Literal["kivel-profile"]
    version: Literal[1]
    about: str = ""
    fade: Fade | None = None
    units: Units = msgspec.field(default_factory=Units)
    image: ImageRules = msgspec.field(default_factory=ImageRules)
    require: Requirements = msgspec.field(default_factory=Requirements)
    lacks: Lacks = msgspec.field(default_factory=Lacks)
    maps: dict[str, MapRule] = {}
    range: dict[str, tuple[float, float]] = {}
    output: list[OutputRule] = []


class ProfileFile(NamedTuple):
    """A profile, its file, and the text of each output's template."""

    file: TomlFile
    profile: ProfileRules
    templates: tuple[str, ...]

    @property
    def path(self) -> Path:
        """Where it is."""
        return self.file.path

    def error(self, place: KeyPath, message: str, *, line_of_value: int | None = None) -> TomlError:
        """Return what is wrong with a value, or with a line of it, from 1: the file, its line and its key."""
        return self.file.error(place, message, line_of_value=line_of_value)

    def beside(self, name: str) -> Path:
        """A file that the profile names."""
        return self.path.parent / name


def read_profile(path: Path) -> ProfileFile:
    """Read a profile and check all that can be said of it without a sheet.

    Raises
    ------
    TomlError
        If it is none: the line, the key, what was found and what is expected.
    OutputError
        If it cannot be read.
    """
    file = read_toml_file(path, most=_MOST_BYTES)
    profile = file.as_model(ProfileRules)
    problems = list(_problems(profile))
    if problems:
        raise file.errors(problems)
    templates = tuple(_template(file, number, output) for number, output in enumerate(profile.output))
    return ProfileFile(file, profile, templates)


def _problems(profile: ProfileRules) -> Iterator[tuple[KeyPath, str]]:
    """Return what the types do not say."""
    yield from _unit_problems(profile.units)
    yield from _image_problems(profile)
    yield from _output_problems(profile)


def _unit_problems(units: Units) -> Iterator[tuple[KeyPath, str]]:
    if units.time == "ticks":
        if units.timebase is None:
            yield ("units", "timebase"), "is needed for times in ticks: ticks a second"
        else:
            try:
                parse_rate(str(units.timebase))
            except KivelError as error:
                yield ("units", "timebase"), str(error)
    if units.time == "seconds" and units.timebase is not None:
        yield ("units", "timebase"), 'times are in seconds; write time = "ticks", or remove it'


def _image_problems(profile: ProfileRules) -> Iterator[tuple[KeyPath, str]]:
    image = profile.image
    if image.cells == "steps" and (image.each != "clip" or image.layout == "keep"):
        yield ("image", "cells"), 'this needs each = "clip" and a layout'
    if image.each == "clip" and image.layout == "keep":
        yield ("image", "each"), 'each = "clip" needs a layout: row, column or grid'
    if image.layout != "keep" and image.file is None:
        yield ("image", "file"), "is needed with a layout: where pages are written"
    for name in ("phase", "unequal_holds"):
        if getattr(profile.lacks, name) == "write-out" and image.cells != "steps":
            yield ("lacks", name), 'this needs cells = "steps" under image'
    for name in ("columns", "rows", "fill"):
        if getattr(image, name) not in (None, "across") and image.layout != "grid":
            yield ("image", name), 'this is for a grid; write layout = "grid"'
    yield from _pattern_problems(("image", "file"), image.file, PATTERN_FIELDS)


def _output_problems(profile: ProfileRules) -> Iterator[tuple[KeyPath, str]]:
    for name, rule in profile.maps.items():
        yield from _pattern_problems(("maps", name, "file"), rule.file, PATTERN_FIELDS)
        channels = "rg" if rule.channels is None else rule.channels
        if len(channels) != 2 or len(set(channels)) != 2 or not set(channels) <= set("rgba"):
            yield ("maps", name, "channels"), f"expected two of r, g, b and a, as in rg, found {channels!r}"
        if rule.reach is not None and rule.reach <= 0:
            yield ("maps", name, "reach"), f"{rule.reach:g}, expected pixels above 0"
    for name, (least, most) in profile.range.items():
        if least > most:
            yield ("range", name), f"the minimum, {least:g}, is above the maximum, {most:g}"
        if not re.fullmatch(r"(sheet|clip|step|frame|event)(\.[a-z_]+)+", name):
            yield ("range", name), "expected sheet, clip, step, frame or event, a point, and a number of it: step.hold"
    for number, output in enumerate(profile.output):
        place: KeyPath = ("output", number)
        yield from _pattern_problems((*place, "file"), output.file, EACH[output.each])
        if (output.template is None) == (output.template_file is None):
            yield (*place, "template"), "use either template or template_file"


def _pattern_problems(place: KeyPath, pattern: str | None, fields: tuple[str, ...]) -> Iterator[tuple[KeyPath, str]]:
    if pattern is None:
        return
    odd = [field for field in pattern_fields(pattern) if field not in fields]
    if odd:
        known = ", ".join(f"{{{field}}}" for field in fields) or "none"
        yield place, f"there is no field {{{odd[0]}}} here; fields: {known}"
        return
    try:
        filled_name(pattern, _SAMPLE)
    except KivelError as error:
        yield place, str(error)


def _template(profile: TomlFile, number: int, output: OutputRule) -> str:
    if output.template is not None:
        return output.template
    file = profile.path.parent / str(output.template_file)
    try:
        return file_text(file, most=_MOST_BYTES)
    except OutputError as error:
        raise profile.error(("output", number, "template_file"), str(error)) from error
