"""From what stands on the command line (`SRC`) to the frames it means, and what is odd about them."""

from __future__ import annotations

import glob
import re
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from pathlib import Path, PurePath
from typing import TYPE_CHECKING, NamedTuple

from kivel.core.errors import KivelError, located
from kivel.core.numbering import (
    NumberRange,
    SequenceError,
    Series,
    find_series,
    missing_numbers,
    natural_order,
    number_pattern,
    spans,
)
from kivel.core.wording import first_few
from kivel.files.images import IMAGE_SUFFIXES, FrameSource, open_image
from kivel.files.manifest.names import COLOR, SUFFIX
from kivel.files.safety import reading, shown
from kivel.sequences.sequence import Frames

if TYPE_CHECKING:  # manifests are rare here, and their models slow to load
    from kivel.files.manifest.model import Page
    from kivel.files.openraster import LayerFrames

__all__ = ["SourceOptions", "joined", "open_sequences", "open_sources"]

_LISTED = 12


class SourceOptions(NamedTuple):
    """How to read: how many pixels an image may state, which numbers count, and which file is none of the frames.

    `target` is what the command will write: run again in a folder of frames, it must not take its own sheet for one.
    `layers` says which parts of an OpenRaster file are frames. Float frames (OpenEXR) become 8 bits, brightened by
    `exposure` stops; None leaves them float under `keep_float`, else it is 0. `map` is what is taken of a manifest's
    pages. Files whose stem ends with one of `companions` are maps of other frames, and none themselves. Under `series`
    a folder or a pattern may hold several.
    """

    max_pixels: int
    within: NumberRange | None = None
    target: Path | None = None
    layers: LayerFrames | None = None
    exposure: float | None = None
    keep_float: bool = False
    map: str = COLOR
    companions: tuple[str, ...] = ()
    series: bool = False

    def is_companion(self, name: str) -> bool:
        return bool(self.companions) and PurePath(name).stem.endswith(self.companions)

    def is_target(self, path: Path) -> bool:
        return self.target is not None and path.absolute() == self.target.absolute()


@dataclass
class _Found:
    """Files in order, gathered from one SRC or from neighbouring files on the command line."""

    stem: str
    paths: list[Path]
    numbers: tuple[int, ...] = ()
    notes: list[str] = field(default_factory=list)
    gaps: list[NumberRange] = field(default_factory=list)


def open_sources(sources: Sequence[str], options: SourceOptions) -> Frames:
    """The frames that the sources mean, one after the other.

    Raises
    ------
    SequenceError
        If a source names nothing, holds no images, or holds several series.
    ImageError, PngError, ManifestError, OutputError
        If a file cannot be read; the files' headers are looked at now, their pixels when they are asked for.
    """
    return _within_range(joined(_gathered(sources, options)), options)


def open_sequences(sources: Sequence[str], options: SourceOptions) -> list[Frames]:
    """The sequences that the sources mean: each folder, pattern, animated image and manifest, and files in a row.

    Raises what `open_sources` does.
    """
    sequences = _gathered(sources, options)
    if any(frame.number is not None for sequence in sequences for frame in sequence.frames):
        return sequences
    return [_within_range(frames, options) for frames in sequences]


def _gathered(sources: Sequence[str], options: SourceOptions) -> list[Frames]:
    if len(sources) == 1 and sources[0].endswith(".json"):
        return [_developed(_manifest_frames(Path(sources[0]), options), options)]
    parts: list[Frames] = []
    files: list[str] = []
    for source in sources:
        with reading(Path(source)):
            is_image = Path(source).is_file() and not source.endswith(".json")
        if is_image:
            files.append(source)
            continue
        if files:
            parts += _of_files(files, options)
            files = []
        parts += _open_one(source, options)
    if files:
        parts += _of_files(files, options)
    return [_developed(part, options) for part in parts]


def _of_files(files: list[str], options: SourceOptions) -> list[Frames]:
    """Files named in a row: animated images are a sequence each, stills are one together."""
    opened = _opened(_listed_files(files), options)
    frames_of = Counter(frame.path for frame in opened.frames)
    if len(files) == 1 or min(frames_of.values()) == 1 or len(frames_of) < len(files):
        return [opened]
    return [_opened(_listed_files([file]), options) for file in files]


def _open_one(source: str, options: SourceOptions) -> list[Frames]:
    if source.endswith(".json"):
        return [_manifest_frames(Path(source), options)]
    return [_opened(found, options) for found in _resolved(source, options)]


def joined(parts: Sequence[Frames]) -> Frames:
    """Sequences as one, by the name of the first."""
    if len(parts) == 1:
        return parts[0]
    left = [f"{part.stem}{SUFFIX}: among other sources, its clips are left" for part in parts if part.manifest]
    return Frames(
        stem=parts[0].stem,
        frames=tuple(frame for part in parts for frame in part.frames),
        notes=(*(note for part in parts for note in part.notes), *left),
        gaps=tuple(gap for part in parts for gap in part.gaps),
    )


def _resolved(source: str, options: SourceOptions) -> list[_Found]:
    path = Path(source)
    if path.is_dir():
        return _folder(path, options)
    if "#" in source:
        return [_numbered(path, options)]
    if glob.has_magic(source):
        return _matching(source, options)
    raise SequenceError(f"there is no such file or folder{_did_you_mean(path)}", where=source)


def _names_in(folder: Path) -> list[str]:
    with reading(folder):
        return [entry.name for entry in folder.iterdir()]


def _did_you_mean(path: Path) -> str:
    import difflib

    folder = path.parent
    names = _names_in(folder) if folder.is_dir() else []
    close = difflib.get_close_matches(path.name, sorted(names), n=1)
    return f"; did you mean {shown(folder / close[0])}?" if close else "; check the name"


def _listed_files(files: list[str]) -> _Found:
    """Files named one by one: in the order given, unless a shell put them there (`f1 f10 f2`)."""
    found = _Found(PurePath(files[0]).stem, [Path(file) for file in files])
    times = Counter(files)
    if len(files) > 1 and files == sorted(times):
        counted = natural_order(files)
        if files != counted:
            found.paths = [Path(file) for file in counted]
            found.notes.append(f"{len(files)} files in a shell's order (10 before 2) are taken in counting order")
    found.notes += [f"{file}: named {count} times, and taken as often" for file, count in times.items() if count > 1]
    return found


def _folder(folder: Path, options: SourceOptions) -> list[_Found]:
    with reading(folder):
        names = sorted(entry.name for entry in folder.iterdir() if _counts(entry, options))
    images, notes = _only_images(names, shown(folder))
    images, sheet_notes = _without_sheets(images, folder)
    notes += sheet_notes
    if not images:
        what = "no images in it" if names else "the folder is empty"
        raise SequenceError(f"{what}; expected {_suffix_list()} files", where=shown(folder))
    found = _series(images, folder, shown(folder), options)
    if len(found) == 1:
        found[0].stem = folder.resolve().name or found[0].stem
    found[0].notes += notes
    found[0].notes += [
        f"{shown(folder / name)} holds the timing of these frames; give it instead of the folder to keep it"
        for name in names
        if name.endswith(SUFFIX) and not _pages_of_sheet(folder / name)
    ]
    return found


def _counts(entry: Path, options: SourceOptions) -> bool:
    hidden = entry.name.startswith(".") or options.is_target(entry) or options.is_companion(entry.name)
    return entry.is_file() and not hidden


def _only_images(names: Iterable[str], where: str) -> tuple[list[str], list[str]]:
    names = list(names)
    images = [name for name in names if _is_image(name)]
    others = [name for name in names if not _is_image(name) and not name.endswith(SUFFIX)]
    return images, [f"{where}: skipped, not images: {first_few(others)}"] if others else []


def _is_image(name: str) -> bool:
    return PurePath(name).suffix.lower() in IMAGE_SUFFIXES


def _without_sheets(images: list[str], folder: Path) -> tuple[list[str], list[str]]:
    """The images that no manifest in the folder knows as a page of frames side by side."""
    sheets = {
        file.file
        for path in sorted(folder.glob(f"*{SUFFIX}"))
        for page in _pages_of_sheet(path)
        for file in page.maps.values()
        if file.file in images
    }
    notes = [f"{shown(folder)}: skipped, sheets by their manifests: {first_few(sorted(sheets))}"] if sheets else []
    return [name for name in images if name not in sheets], notes


def _pages_of_sheet(path: Path) -> tuple[Page, ...]:
    from kivel.files.manifest.parsing import read_manifest

    try:
        manifest = read_manifest(path)
    except KivelError:
        return ()  # whatever it is, it is not asked for here
    return manifest.pages if manifest.is_layout else ()


def _suffix_list() -> str:
    return ", ".join(sorted(IMAGE_SUFFIXES))


def _numbered(path: Path, options: SourceOptions) -> _Found:
    if "#" in shown(path.parent) or glob.has_magic(shown(path.parent)):
        raise SequenceError("the number (#) belongs in the file name, not in a folder's", where=shown(path))
    with located(shown(path.parent)):
        pattern = number_pattern(path.name)
    if not path.parent.is_dir():
        raise SequenceError(f"there is no folder {shown(path.parent)}; check the name", where=shown(path))
    names = _names_in(path.parent)
    names = [name for name in names if not options.is_companion(name)]
    numbered = sorted((number, name) for name in names if (number := pattern.number_in(name)) is not None)
    if not numbered:
        raise SequenceError(f"no file matches{_did_you_mean(path)}", where=shown(path))
    series = Series(path.name, tuple(name for _, name in numbered), tuple(number for number, _ in numbered))
    return _chosen(series, path.parent, shown(path), options)


def _matching(source: str, options: SourceOptions) -> list[_Found]:
    found_paths = [Path(match) for match in glob.glob(source, recursive=True)]
    files = [path for path in found_paths if path.is_file() and not options.is_target(path)]
    matches = sorted(shown(path) for path in files if not options.is_companion(path.name))
    if not matches:
        raise SequenceError("no file matches; check the pattern, and quote it", where=source)
    images, notes = _only_images(matches, source)
    if not images:
        raise SequenceError(f"no image matches; expected {_suffix_list()} files", where=source)
    found = _series(images, Path(), source, options)
    found[0].notes += notes
    return found


def _series(names: list[str], folder: Path, where: str, options: SourceOptions) -> list[_Found]:
    """The series among names; more than one only where that is wanted."""
    series = find_series(names)
    if len(series) > 1 and not options.series:
        raise SequenceError(_several(series, folder, options), where=where)
    return [_chosen(one, folder, where, options) for one in series]


def _several(series: list[Series], folder: Path, options: SourceOptions) -> str:
    twice = sorted({name for one in series for name in one.names if sum(name in other.names for other in series) > 1})
    shown_series = [(_quoted(one, folder), one) for one in series[:_LISTED]]
    width = max(len(quoted) for quoted, _ in shown_series)
    lines = [f"{len(series)} series; give the pattern of the one you mean, in quotes:"]
    for quoted, one in shown_series:
        numbers = f", {one.numbers[0]}-{one.numbers[-1]}" if one.numbers else ""
        size = open_image(folder / one.names[0], max_pixels=options.max_pixels)[0].size
        frames = "1 frame" if len(one.names) == 1 else f"{len(one.names)} frames"
        lines.append(f"  {quoted:{width}}  {frames}{numbers}, {size} px")
    if len(series) > _LISTED:
        lines.append(f"  and {len(series) - _LISTED} more")
    if twice:
        lines.append(f"  (a number is there padded and unpadded; {first_few(twice)} match both ways of writing)")
    return "\n".join(lines)


def _quoted(series: Series, folder: Path) -> str:
    """How to pick a series: its pattern, or the names themselves where no pattern can."""
    if series.pattern:
        return f'"{shown(folder / series.pattern)}"'
    return first_few([shown(folder / name) for name in series.names])


def _chosen(series: Series, folder: Path, where: str, options: SourceOptions) -> _Found:
    """The files of a series, within the range asked for."""
    within = options.within
    pairs = list(zip(series.names, series.numbers, strict=True)) if series.numbers else []
    if within and not pairs:
        raise SequenceError("--range needs numbered files, these have no number that counts", where=where)
    if within:
        pairs = [(name, number) for name, number in pairs if number in within]
        if not pairs:
            there = f"{min(series.numbers)}-{max(series.numbers)}"
            raise SequenceError(
                f"no file has a number from {within.first} to {within.last}; there are {there}", where=where
            )
    names = [name for name, _ in pairs] or list(series.names)
    numbers = tuple(number for _, number in pairs)
    found = _Found(_stem(series.names[0], series.pattern), [folder / name for name in names], numbers)
    found.gaps = missing_numbers(numbers, within) if numbers else []
    if found.gaps:
        there = f"{len(numbers)} files, {numbers[0]}-{numbers[-1]}"
        found.notes.append(f"{where}: numbers missing: {spans(found.gaps)} ({there})")
    return found


def _stem(name: str, pattern: str | None) -> str:
    """What a series is called: its pattern without the number and what joins it on."""
    parts = re.split(r"[-_. ]*[#*]+", PurePath(pattern or name).stem)
    return "".join(parts).strip("-_. ") or PurePath(name).stem


def _opened(found: _Found, options: SourceOptions) -> Frames:
    frames: list[FrameSource] = []
    numbers: Sequence[int | None] = found.numbers or [None] * len(found.paths)
    for path, number in zip(found.paths, numbers, strict=True):
        _check_name(path)
        opened = open_image(path, max_pixels=options.max_pixels, layers=options.layers)
        frames += [frame._replace(number=number) for frame in opened]
    notes = [
        *found.notes,
        *_colour_notes(frames),
        *_depth_notes(frames),
        *_zero_notes(frames),
        *dict.fromkeys(f"{shown(frame.path)}: {frame.note}" for frame in frames if frame.note),
    ]
    return Frames(found.stem, tuple(frames), tuple(notes), tuple(found.gaps))


def _developed(frames: Frames, options: SourceOptions) -> Frames:
    """Float frames as 8 bits where they are not to stay float."""
    stops = options.exposure
    if frames.depth != 32 or (stops is None and options.keep_float):
        return frames
    note = "OpenEXR is taken as 8-bit sRGB at exposure 0; --exposure makes it brighter or darker"
    notes = (*frames.notes, note) if stops is None else frames.notes
    return frames._replace(frames=tuple(_exposed(frame, stops or 0.0) for frame in frames.frames), notes=notes)


def _exposed(frame: FrameSource, stops: float) -> FrameSource:
    from kivel.core.exposure import exposed

    load = frame.load
    return frame._replace(depth=8, load=lambda: exposed(load(), stops)) if frame.depth == 32 else frame


def _check_name(path: Path) -> None:
    """Names go into manifests, which are UTF-8."""
    try:
        path.name.encode()
    except UnicodeEncodeError as error:
        raise SequenceError("its name is not UTF-8; rename it", where=ascii(shown(path))) from error


def _zero_notes(frames: list[FrameSource]) -> list[str]:
    zero = [frame.source for frame in frames if frame.duration == 0]
    if not zero:
        return []
    return [f"a duration of 0 is stated for {first_few(zero)}; held for 100 ms, as most players do (or see --hold)"]


def _colour_notes(frames: list[FrameSource]) -> list[str]:
    noted = [frame for frame in frames if frame.colour_note]
    if not noted:
        return []
    more = f" and {len(noted) - 1} more" if len(noted) > 1 else ""
    return [
        f"{shown(noted[0].path)}{more}: {noted[0].colour_note} is left behind, the pixel values are kept as they are"
    ]


def _depth_notes(frames: list[FrameSource]) -> list[str]:
    deep = [frame for frame in frames if frame.depth == 16]
    if any(frame.depth == 32 for frame in frames):
        return []
    if not 0 < len(deep) < len(frames):
        return []
    return [f"{len(deep)} of {len(frames)} frames have 16 bits a channel ({deep[0].source}); all are taken as 16 bits"]


def _within_range(frames: Frames, options: SourceOptions) -> Frames:
    """Frames whose files have no numbers of their own, of an animated image or a manifest, count from 0."""
    within = options.within
    if within is None or any(frame.number is not None for frame in frames.frames):
        return frames
    count = len(frames.frames)
    if within.last >= count:
        raise SequenceError(
            f"--range {within.first}-{within.last}: there are {count} frames, 0-{count - 1}", where=frames.stem
        )
    from kivel.sequences.clips import stated_holds

    timed = zip(frames.frames, stated_holds(frames), strict=True)
    chosen = [frame._replace(duration=hold) for frame, hold in timed][within.first : within.last + 1]
    return frames._replace(frames=tuple(chosen), manifest=None)


def _manifest_frames(path: Path, options: SourceOptions) -> Frames:
    from kivel.files.manifest.parsing import read_manifest  # the model library, for manifests alone
    from kivel.sequences.placed import frames_of_manifest

    return frames_of_manifest(read_manifest(path), path, map=options.map, max_pixels=options.max_pixels)
