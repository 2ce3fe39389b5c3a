"""A whole pack of sheets, as a profile says: images, files from templates, and what has to be so."""

from __future__ import annotations

import codecs
from collections.abc import Callable, Iterator, Mapping, Sequence
from pathlib import Path, PurePosixPath
from typing import Any

from kivel.core.errors import KivelError, UsageError, located
from kivel.core.exporting.name_patterns import filled_name
from kivel.core.named_tuples import NamedTuple
from kivel.core.numbering import natural_order
from kivel.core.wording import WARNING
from kivel.files.documents import DocumentError, json_of
from kivel.files.limited_process import GaveUpError, LimitedProcess
from kivel.files.manifest.names import COLOR
from kivel.files.profile_file import OutputRule, ProfileFile, Units
from kivel.files.safety import file_text, shown
from kivel.files.templates import RenderJob, TemplateError, rendered
from kivel.making.exports.exported_sheets import ExportedSheet, ExportUnits
from kivel.making.exports.pack_checks import require_as_stated, tell_lacks
from kivel.making.exports.pack_variables import (
    clip_variables,
    frame_variables,
    group_variables,
    map_variables,
    sheet_variables,
)
from kivel.making.exports.packed_sheets import PackedSheet, group_of, packed_sheets
from kivel.making.options.export_options import ExportOptions
from kivel.making.work import Work

__all__ = ["Pack", "pack_of", "require_templates", "schema_errors", "variables_of"]


_MOST_SCHEMA_BYTES = 1 << 24
_MOST_PACK_BYTES = 512 << 20


class Pack(NamedTuple):
    """Everything that is written, by its name in the pack; `shared` are the names of files about all sheets of it."""

    files: dict[str, bytes]
    sheets: list[PackedSheet]
    inputs: list[Path]
    shared: frozenset[str] = frozenset()


def pack_of(
    file: ProfileFile, paths: Sequence[Path], options: ExportOptions, work: Work, *, others: Sequence[Path] = ()
) -> Pack:
    """All files of a pack, nothing written. `others` are manifests that it has already, for files about all of them.

    Raises
    ------
    KivelError
        If a sheet is not what the profile needs, a number is out of its range, two files have one name, or a template
        fails: each with the value and the place.
    """
    inputs = [file.path]
    sheets = [packed for path in paths for packed in _sheets(file, path, options, work, inputs)]
    for packed in sheets:
        require_as_stated(file, packed)
    beside = _beside(file, others, options, inputs)
    gathered = _Gathered()
    for packed in sheets:
        for name, content in packed.files.items():
            gathered.add(name, content, packed.where)
    order = natural_order(dict.fromkeys(one.where for one in (*sheets, *beside)))
    everything = sorted([*sheets, *beside], key=lambda one: order.index(one.where))
    shared = set()
    for number, name, content, where in _outputs(file, sheets, everything, work):
        gathered.add(name, content, where)
        if file.profile.output[number].each == "pack":
            shared.add(name)
    return Pack(gathered.files, sheets, inputs, frozenset(shared))


def _beside(file: ProfileFile, others: Sequence[Path], options: ExportOptions, inputs: list[Path]) -> list[PackedSheet]:
    """Sheets that the pack has already: what is known of them, with all their clips."""
    if not others:
        return []
    names = [str(path) for path in others]
    given = {"manifests": names, "profile": str(file.path), "out": options.out, "max-pixels": options.pixel_limit}
    chosen, unheard = ExportOptions.of(given), Work()
    return [packed for path in others for packed in _sheets(file, path, chosen, unheard, inputs, with_files=False)]


def _sheets(
    file: ProfileFile, path: Path, options: ExportOptions, work: Work, inputs: list[Path], *, with_files: bool = True
) -> list[PackedSheet]:
    """Return what becomes of a manifest; what is read is added to `inputs`."""
    units = file.profile.units
    clock_name = f"units.timebase in {file.path.name}"
    sheet = ExportedSheet(path, options, work, ExportUnits(units.origin, units.half_texel, units.rate, clock_name))
    inputs += [path, *(path.parent / one.file for page in sheet.manifest.pages for one in page.maps.values())]
    found = packed_sheets(sheet, file, Path(options.out or "."), with_files=with_files)
    tell_lacks(file, sheet, work)
    return found


def variables_of(file: ProfileFile, sheets: Sequence[PackedSheet]) -> dict[str, Any]:
    """Return what templates get for the first sheet."""
    if not sheets:
        return {}
    return sheet_variables(sheets[0], file.profile.units, file.profile.maps)


def require_templates(file: ProfileFile) -> None:
    """Require that templates can be read at all.

    Raises
    ------
    KivelError
        With the line of the first that cannot.
    """
    for number, text in enumerate(file.templates):
        # in a branch that is never taken: it is read, and nothing of it asked for
        unused = f"{{% if false %}}{text}{{% endif %}}"
        try:
            rendered([unused], [RenderJob(0, {})])
        except TemplateError as error:
            raise _template_error(file, _Planned(number, "", "any sheet", {}), error) from error


class _Gathered:
    """Files by their names, and what each is made for."""

    def __init__(self) -> None:
        self.files: dict[str, bytes] = {}
        self._origins: dict[str, str] = {}
        self._folded: dict[str, str] = {}
        self._bytes = 0

    def add(self, name: str, content: bytes, where: str) -> None:
        """Two files must not meet, nor be taken for one where case does not count."""
        other = self._folded.get(name.casefold())
        if other is not None:
            alike = "" if other == name else f", the same as {other!r} on other systems"
            made = f"made for {self._origins[other]} and for {where}"
            raise UsageError(f"{name!r}{alike}: {made}; make the pattern unique")
        above = (parent.as_posix().casefold() for parent in PurePosixPath(name).parents)
        below = next((self._folded[parent] for parent in above if parent in self._folded), None)
        if below is not None:
            raise UsageError(f"{name!r}: {below!r} is a file and would have to be a folder; change one of the patterns")
        self._bytes += len(content)
        if self._bytes > _MOST_PACK_BYTES:
            raise UsageError(
                f"{name!r}: the pack has more than {_MOST_PACK_BYTES >> 20} MiB with it; "
                "export fewer manifests at a time"
            )
        self.files[name] = content
        self._origins[name] = where
        self._folded[name.casefold()] = name


class _Planned(NamedTuple):
    """An output file: which rule it comes from, its name, what it is made for, and what its template gets."""

    rule: int
    name: str
    where: str
    variables: dict[str, Any]


def _outputs(
    file: ProfileFile, sheets: Sequence[PackedSheet], everything: Sequence[PackedSheet], work: Work
) -> Iterator[tuple[int, str, bytes, str]]:
    """Each file, with the number of its rule and what it is for; those about the pack are about everything in it."""
    planned = [
        one
        for number, rule in enumerate(file.profile.output)
        for one in _planned(file, number, rule, everything if rule.each == "pack" else sheets)
    ]
    planned = _wanted(file, planned)
    jobs = [RenderJob(one.rule, one.variables) for one in planned]
    try:
        texts = rendered(file.templates, jobs)
    except TemplateError as error:
        raise _template_error(file, planned[error.job], error) from error
    for number, rule in enumerate(file.profile.output):
        own = {f"{one.name}, made for {one.where}": text for one, text in zip(planned, texts, strict=True)
               if one.rule == number and text.strip()}  # fmt: skip
        if rule.schema is not None and own:
            for _, wrong in schema_errors(file, number, own):
                raise wrong
    for one, text in zip(planned, texts, strict=True):
        if not text.strip():
            continue  # nothing to say is no file
        if one.name.endswith(".json") and (broken := _json_error(text)):
            how = "in a template, {{ value | json }} writes it as such"
            work.note(f"{WARNING}{one.name}: is not JSON: {broken}; {how}")
        yield one.rule, one.name, _encoded(file, one, text), one.where


def _wanted(file: ProfileFile, planned: list[_Planned]) -> list[_Planned]:
    """Those whose condition holds."""
    asked = [number for number, one in enumerate(planned) if file.profile.output[one.rule].when]
    conditions = [f"{{{{ 1 if ({rule.when}) else 0 }}}}" for rule in file.profile.output]
    try:
        answers = rendered(conditions, [RenderJob(planned[at].rule, planned[at].variables) for at in asked])
    except TemplateError as error:
        one = planned[asked[error.job]]
        raise file.error(("output", one.rule, "when"), f"{error} (for {one.where})") from error
    refused = {number for number, answer in zip(asked, answers, strict=True) if answer != "1"}
    return [one for number, one in enumerate(planned) if number not in refused]


def _planned(file: ProfileFile, number: int, rule: OutputRule, sheets: Sequence[PackedSheet]) -> Iterator[_Planned]:
    """The files of one rule, for the pack, or for each of what it says."""
    units = file.profile.units
    parts = [sheet_variables(sheet, units, file.profile.maps) for sheet in sheets]
    if rule.each == "pack":
        yield _Planned(number, _name(file, number, rule, {}), "the pack", {"sheets": parts})
        return
    for sheet, variables in zip(sheets, parts, strict=True):
        image = PurePosixPath(variables["sheet"]["image"])
        fields: dict[str, str | None] = {
            "name": sheet.name, "folder": variables["sheet"]["folder"], "image": image.name, "stem": image.stem,
            "clip": sheet.clip,
        }  # fmt: skip
        for where, more, given in _EACH[rule.each](sheet, units):
            with located(sheet.where):
                name = _name(file, number, rule, fields | more)
            yield _Planned(number, name, f"{sheet.where}{where}", variables | given)


Parts = Iterator[tuple[str, dict[str, str | None], dict[str, Any]]]
"""The part of a sheet that a file is for, in words; the fields of its name; and what its template gets besides."""


def _each_sheet(_sheet: PackedSheet, _units: Units) -> Parts:
    yield "", {}, {}


def _each_clip(sheet: PackedSheet, units: Units) -> Parts:
    for table in sheet.table.clips:
        name = table.clip.name
        fields = {"clip": name, "group": group_of(sheet.groups, name)}
        yield f', clip "{name}"', fields, {"clip": clip_variables(sheet, table, units)}


def _each_group(sheet: PackedSheet, _units: Units) -> Parts:
    for group in sheet.groups:
        yield f', group "{group.name}"', {"group": group.name}, {"group": group_variables(group)}


def _each_map(sheet: PackedSheet, _units: Units) -> Parts:
    for name in sheet.images:
        if name != COLOR:
            one = map_variables(sheet, name)
            fields: dict[str, str | None] = {
                "map": name,
                "image": PurePosixPath(one["image"]).name,
                "stem": one["stem"],
            }
            yield f', map "{name}"', fields, {"map": one}


def _each_frame(sheet: PackedSheet, units: Units) -> Parts:
    for number, frame in enumerate(sheet.table.frames):
        fields: dict[str, str | None] = {"frame": frame.name, "index": str(number + units.first_index)}
        yield f", frame {frame.name!r}", fields, {"frame": frame_variables(sheet, number, units)}


_EACH: dict[str, Callable[[PackedSheet, Units], Parts]] = {
    "sheet": _each_sheet, "clip": _each_clip, "group": _each_group, "map": _each_map, "frame": _each_frame,
}  # fmt: skip


def _name(file: ProfileFile, number: int, rule: OutputRule, fields: Mapping[str, str | None]) -> str:
    try:
        return filled_name(rule.file, fields)
    except UsageError as error:
        raise file.error(("output", number, "file"), str(error)) from error


def _template_error(file: ProfileFile, one: _Planned, error: TemplateError) -> KivelError:
    """A template's error with the line that it is in: of the profile, or of its own file."""
    rule = file.profile.output[one.rule]
    line = f"line {error.line} of it: " if error.line else ""
    message = f"{line}{error} (for {one.where})"
    if rule.template_file:
        return KivelError(message, where=f"{shown(file.beside(rule.template_file))}:{error.line or 1}")
    return file.error(("output", one.rule, "template"), message, line_of_value=error.line)


def _encoded(file: ProfileFile, one: _Planned, text: str) -> bytes:
    rule = file.profile.output[one.rule]
    lines = text.replace("\r\n", "\n").replace("\n", "\r\n" if rule.line_ends == "crlf" else "\n")
    try:
        if rule.encoding == "utf-16":  # the same bytes on every machine
            return codecs.BOM_UTF16_LE + lines.encode("utf-16-le")
        return lines.encode(rule.encoding)
    except UnicodeEncodeError as error:
        bad = lines[error.start]
        number = lines.count("\n", 0, error.start) + 1
        raise file.error(
            ("output", one.rule, "encoding"), f"{rule.encoding} has no {bad!r}, line {number} of {one.name}"
        ) from error


def schema_errors(file: ProfileFile, number: int, texts: Mapping[str, str]) -> Iterator[tuple[str, KivelError]]:
    """Return what is wrong with results of an output, by what they are called: they are JSON, and as its schema says.

    Nothing is fetched. A schema that is none ends it.
    """
    rule = file.profile.output[number]
    path = file.beside(str(rule.schema))
    place = ("output", number, "schema")
    broken = {name: wrong for name, text in texts.items() if (wrong := _json_error(text))}
    sound = {name: text for name, text in texts.items() if name not in broken}
    for name, wrong in broken.items():
        yield name, file.error(place, f"{name}, is not JSON: {wrong}")
    name = next(iter(texts))
    try:
        schema = file_text(path, most=_MOST_SCHEMA_BYTES)
        with located(shown(path)):
            json_of(schema.encode())
        with LimitedProcess("validate", list(sound.values()), schema=schema) as process:
            for name in sound:
                answer = process.answer()
                if "schema" in answer:
                    yield name, file.error(place, f"{shown(path)} {answer['schema']}")
                    return
                if "error" in answer:
                    yield name, file.error(place, f"{name}: {answer['at']}: {answer['error']}")
    except GaveUpError as error:
        yield name, file.error(place, f"{shown(path)}: {error}")
    except KivelError as error:
        yield name, file.error(place, str(error))


def _json_error(text: str) -> DocumentError | None:
    try:
        json_of(text.encode())
    except DocumentError as error:
        return error
    return None
