"""Reading a manifest: JSON with line and column, types with their path, then what the numbers must agree on."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from fractions import Fraction
from functools import cache
from pathlib import Path, PurePosixPath
from typing import Any

from kivel.core.errors import KivelError, located
from kivel.core.layout.grid import Grid
from kivel.core.pixels.pixels import Size
from kivel.core.playback.clip import Clip
from kivel.files.documents import DocumentError, json_of
from kivel.files.manifest.model import FramePlace, Manifest, Page
from kivel.files.manifest.names import COLOR, FORMAT, VERSION, ManifestError
from kivel.files.manifest.text import self_digest
from kivel.files.models import FieldType, Problem, bounds_problem, field_types, key_path_text, value_problem
from kivel.files.safety import file_bytes, shown
from kivel.files.whole_sets import watch_manifest

__all__ = ["edited_since_written", "parse_manifest", "read_manifest"]


_MOST_BYTES = 64 << 20


def read_manifest(path: Path, *, watched: bool = True) -> Manifest:
    """Return the manifest in a file. What is read is of its set (`files/whole_sets.py`), unless it is not `watched`.

    Raises
    ------
    ManifestError
        If it is not valid: where in the file, and what was found there.
    OutputError
        If the file cannot be read.
    """
    if watched:
        watch_manifest(path)
    data = file_bytes(path, most=_MOST_BYTES)
    with located(shown(path)):
        return parse_manifest(data)


def parse_manifest(data: bytes) -> Manifest:
    """The manifest in a file's bytes; raises `ManifestError`."""
    content = _json(data)
    if content.get("format") != FORMAT:
        raise ManifestError(f'not a Kivel manifest: "format" is {content.get("format")!r}, expected "{FORMAT}"')
    version = content.get("version")
    if version != VERSION or isinstance(version, bool):
        raise ManifestError(
            f'"version" is {version!r}, this Kivel reads version {VERSION}; install the Kivel that wrote it'
        )
    import msgspec  # a seventh of the time of a small sheet, which reads no manifest

    known = {key: value for key, value in content.items() if key not in ("format", "version", "digest")}
    try:
        manifest = msgspec.convert(_record_sorter(Manifest)(known), Manifest, dec_hook=_special)
    except msgspec.ValidationError as error:
        raise _error(value_problem(error, content, Manifest)) from error
    beyond = bounds_problem(manifest, Manifest)
    if beyond:
        raise _error(beyond)
    for problem in _problems(manifest):
        raise ManifestError(problem)
    # what follows a clip takes the place of an end: by hand both may be written
    clips = tuple(replace(clip, end="last") if clip.then and clip.end != "last" else clip for clip in manifest.clips)
    return manifest if clips == manifest.clips else replace(manifest, clips=clips)


def _error(problem: Problem) -> ManifestError:
    where = f"{key_path_text(problem.place)}: " if problem.place else ""
    return ManifestError(where + problem.message)


def edited_since_written(path: Path) -> bool:
    """Whether a manifest's content is no longer the text that Kivel wrote."""
    try:
        content = _json(file_bytes(path, most=_MOST_BYTES))
    except KivelError:
        return True
    return bool(content.get("digest") != self_digest(content))


def _json(data: bytes) -> dict[str, Any]:
    try:
        content = json_of(data)
    except DocumentError as error:
        raise ManifestError(error.message) from error
    if not isinstance(content, dict):
        raise ManifestError("not a Kivel manifest: expected a JSON object")
    return content


@cache
def _sorter(kind: FieldType) -> Callable[[Any], Any] | None:
    """Return what moves keys that the records in a value do not know into their `extra`; None where there are no
    records.

    msgspec refuses or drops keys that a model does not have.
    """
    if kind.is_model:
        return _record_sorter(kind.kind)
    inner = _sorter(kind.each) if kind.each else None
    if inner is None:
        return None

    def sort(value: Any) -> Any:
        if isinstance(value, list):
            return [inner(item) for item in value]
        return {key: inner(item) for key, item in value.items()} if isinstance(value, dict) else value

    return sort


@cache
def _record_sorter(model: type) -> Callable[[Any], Any]:
    inner = {name: _sorter(one) for name, one in field_types(model).items()}

    def sort(value: Any) -> Any:
        if not isinstance(value, dict):
            return value
        known, extra = {}, {}
        for key, item in value.items():
            if key not in inner:
                extra[key] = item
            else:
                further = inner[key]
                known[key] = further(item) if further else item
        if model is Clip:
            known["repeat"] = _repeat(value.get("repeat"))
        return known | {"extra": extra}

    return sort


def _repeat(stated: Any) -> Any:
    """null is forever; the word, which other fields of this program know, is not a number."""
    if stated == "forever":
        raise ManifestError('clips: a repeat of "forever", expected a count, or null for forever')
    return "forever" if stated is None else stated


def _special(expected: type, value: Any) -> Any:
    pair = value if expected is Fraction and isinstance(value, list) else []
    whole = all(isinstance(number, int) and not isinstance(number, bool) for number in pair)
    if len(pair) != 2 or not whole or pair[1] < 1:
        raise ValueError(value)
    return Fraction(*pair)


def _problems(manifest: Manifest) -> Iterator[str]:
    """Return what the schema cannot say: numbers that must agree, paths that must stay inside."""
    for number, page in enumerate(manifest.pages):
        yield from _page_problems(page, f"pages[{number}]")
    if manifest.grid:
        for number, page in enumerate(manifest.pages):
            yield from _beyond_page(manifest.grid.cells(), page, f"pages[{number}]")
            if manifest.grid.divided and not manifest.grid.cells().divides(Size(*page.size)):
                yield (
                    f"grid.divided: true, but {manifest.grid.columns} x {manifest.grid.rows} cells do not divide "
                    f"pages[{number}] evenly; remove it"
                )
    for number, frame in enumerate(manifest.frames):
        yield from _frame_problems(manifest, frame, f"frames[{number}]")
    yield from _motion_problems(manifest)
    yield from _clip_problems(manifest)


def _page_problems(page: Page, where: str) -> Iterator[str]:
    if COLOR not in page.maps:
        yield f'{where}.maps: there is no map "{COLOR}"'
    for name, file in page.maps.items():
        if not _stays_inside(file.file):
            yield (
                f"{where}.maps.{name}.file: {file.file!r} leaves the manifest's folder; "
                "move the image beside the manifest and correct the path"
            )
        if file.scale is not None and not _divides(page, file.scale):
            yield (f"{where}.maps.{name}.scale: {file.scale} of {page.size} px, expected 1/2, 1/3, ... that divides it")
        if file.motion and file.motion.ratios and len(file.motion.ratios) != len(file.motion.pairs):
            yield f"{where}.maps.{name}.motion.ratios: {len(file.motion.ratios)} for {len(file.motion.pairs)} pairs"


def _beyond_page(grid: Grid, page: Page, where: str) -> Iterator[str]:
    right, bottom = grid.size.w - grid.margin.x, grid.size.h - grid.margin.y
    if right > page.size[0] or bottom > page.size[1]:
        yield f"{where}.size: {page.size} px, the grid's cells reach to {right},{bottom}"


def _divides(page: Page, scale: Fraction) -> bool:
    parts = scale.denominator
    return scale.numerator == 1 and page.size[0] % parts == 0 and page.size[1] % parts == 0


def _stays_inside(path: str) -> bool:
    pure = PurePosixPath(path)
    windows = "\\" in path or ":" in path
    return bool(path) and not (windows or pure.is_absolute() or ".." in pure.parts or "\0" in path)


def _frame_problems(manifest: Manifest, frame: FramePlace, where: str) -> Iterator[str]:
    if not 0 <= frame.page < len(manifest.pages):
        yield f"{where}.page: {frame.page}, {_valid(len(manifest.pages), 'pages')}"
        return
    page, rect = manifest.pages[frame.page].size, frame.rect
    yield from _cut_problems(manifest, frame, f"{where}.cut")
    if not rect.fits(page):
        yield f"{where}.rect: {list(rect)} reaches beyond its page of {page} px"
    else:
        size = Size(rect.h, rect.w) if frame.turn == 90 else rect.size
        inside = rect._replace(x=frame.offset[0], y=frame.offset[1], w=size.w, h=size.h)
        for name, file in manifest.pages[frame.page].maps.items():
            if any(value % file.parts for value in (*rect, *frame.offset, *frame.canvas)):
                yield f"{where}: its rectangle and canvas are not divisible by {file.parts}, which map {name!r} needs"
        if not inside.fits(frame.canvas):
            yield f"{where}: {size} px at offset {list(frame.offset)} reach beyond a canvas of {frame.canvas} px"


def _motion_problems(manifest: Manifest) -> Iterator[str]:
    for number, page in enumerate(manifest.pages):
        for name, file in page.maps.items():
            earlier: set[int] = set()
            for place, pair in enumerate(file.motion.pairs if file.motion else ()):
                where = f"pages[{number}].maps.{name}.motion.pairs[{place}]"
                if not all(0 <= frame < len(manifest.frames) for frame in pair):
                    yield f"{where}: {list(pair)}, {_valid(len(manifest.frames), 'frames')}"
                elif manifest.frames[pair[0]].page != number:
                    yield f"{where}: frame {pair[0]} is on page {manifest.frames[pair[0]].page}; list the pair there"
                elif pair[0] in earlier:
                    yield f"{where}: frame {pair[0]} already leads to another frame; each frame holds one motion"
                earlier.add(pair[0])


def _cut_problems(manifest: Manifest, frame: FramePlace, where: str) -> Iterator[str]:
    cut, sheet = frame.cut, manifest.sliced_from
    if cut is None:
        return
    if sheet is None:
        yield f"{where}: the manifest has no sliced_from, so there is nothing that it could be cut from"
    elif not 0 <= cut.page < len(sheet.pages):
        yield f"{where}.page: {cut.page}, {_valid(len(sheet.pages), 'pages')}"
    elif min(cut.rect.w, cut.rect.h) < 1 or not cut.rect.fits(sheet.pages[cut.page]):
        yield f"{where}.rect: {list(cut.rect)} reaches beyond its page of {sheet.pages[cut.page]} px"
    elif not cut.rect._replace(x=cut.offset[0], y=cut.offset[1]).fits(frame.canvas):
        yield f"{where}: {cut.rect.size} px at offset {list(cut.offset)} reach beyond a canvas of {frame.canvas} px"


def _clip_problems(manifest: Manifest) -> Iterator[str]:
    names: set[str] = set()
    for number, clip in enumerate(manifest.clips):
        where = f"clips[{number}]"
        if clip.name in names:
            yield f"{where}.name: {clip.name!r} is used twice; rename one"
        names.add(clip.name)
        if not 0 <= clip.phase < len(clip.order()):
            yield f"{where}.phase: {clip.phase}, expected from 0 up to below {len(clip.order())}, the steps of a cycle"
        yield from _step_problems(clip, len(manifest.frames), where)
    yield from _group_problems(manifest, names)


def _group_problems(manifest: Manifest, names: set[str]) -> Iterator[str]:
    known = ", ".join(sorted(names))
    for number, clip in enumerate(manifest.clips):
        if clip.then is not None and clip.then not in names:
            yield f"clips[{number}].then: there is no clip {clip.then!r}; clips: {known}"
    for number, group in enumerate(manifest.groups):
        for member in group.members:
            if member not in names:
                yield f"groups[{number}].members: there is no clip {member!r}; clips: {known}"
        weights = group.weights
        if weights is not None and (len(weights) != len(group.members) or min(weights) < 0 or not any(weights)):
            found = list(weights)
            yield f"groups[{number}].weights: {found}, expected a count from 0 for each member, not all of them 0"


def _step_problems(clip: Clip, frames: int, where: str) -> Iterator[str]:
    for number, step in enumerate(clip.steps):
        if not 0 <= step.frame < frames:
            yield f"{where}.steps[{number}]: frame {step.frame}, {_valid(frames, 'frames')}"
    for number, frame in enumerate(clip.frames or ()):
        if not 0 <= frame < frames:
            yield f"{where}.frames[{number}]: {frame}, {_valid(frames, 'frames')}"
    for number, event in enumerate(clip.events):
        if not 0 <= event.step < len(clip.steps):
            yield f"{where}.events[{number}]: step {event.step}, {_valid(len(clip.steps), 'steps')}"


def _valid(count: int, things: str) -> str:
    return f"there are {count} {things}, 0-{count - 1}" if count else f"there are no {things}"
