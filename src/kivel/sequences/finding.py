"""From what means a source (`SRC`) to the files that it means, in order, and what is odd about them."""

from __future__ import annotations

import glob
import os
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path, PurePath
from typing import TYPE_CHECKING, TypeVar

from kivel.core.errors import located, option
from kivel.core.numbering import (
    NumberRange,
    SequenceError,
    Series,
    find_series,
    is_between,
    missing_numbers,
    natural_order,
    number_pattern,
    spans,
)
from kivel.core.suggestions import did_you_mean
from kivel.core.wording import first_few
from kivel.files.images import IMAGE_SUFFIXES, VIDEO_SUFFIXES
from kivel.files.manifest.names import COLOR, SUFFIX
from kivel.files.safety import reading, shown
from kivel.sequences.choosing import NamedSeries, chosen_series, once_each, stem_of
from kivel.sequences.reconciling.described_folders import (
    DescribedFolder,
    described_folders,
    known_manifests,
    series_of_folder,
)
from kivel.sequences.settings import SourceSettings

if TYPE_CHECKING:  # manifests are rare here, and their models slow to load
    pass

__all__ = ["Found", "files_of_manifest", "found_in", "listed_files", "series_in"]


_Entry = TypeVar("_Entry", os.DirEntry[str], Path)


@dataclass
class Found:
    """Files in order, gathered from one SRC or from neighbouring files on the command line.

    `plain_notes` are for files that no manifest describes: it knows their maps, and what is missing. `prefix` goes
    before the frames' names, for the sub-folder that they are in. `pick` chooses among their clips.
    """

    stem: str
    paths: list[Path]
    numbers: tuple[int, ...] = ()
    notes: list[str] = field(default_factory=list)
    plain_notes: list[str] = field(default_factory=list)
    prefix: str = ""
    pick: str | None = None
    gaps: list[NumberRange] = field(default_factory=list)


def listed_files(files: list[str], settings: SourceSettings) -> list[Found]:
    """Files named one by one: in the order given, unless a shell put them there (`f1 f10 f2`).

    A list that a shell made of a folder of several series is treated as the folder would be.
    """
    files, notes, plain_notes = _frames_among(files)
    several = _several_series(files, settings)
    if several:
        where = files[0] if len(files) == 1 else "the listed files"
        chosen, more = once_each(chosen_series(several, settings, where))
        every = [_chosen(one, one.quoted.strip('"'), settings) for one in chosen]
        every[0].notes += [*notes, *more]
        every[0].plain_notes += plain_notes
        return every
    found = Found(PurePath(files[0]).stem, [Path(file) for file in files], notes=notes, plain_notes=plain_notes)
    times = Counter(files)
    if len(files) > 1 and files == sorted(times):
        counted = natural_order(files)
        # a shell sorts by letters: f1 f10 f2; a list in another order is somebody's wish
        if files != counted:
            found.paths = [Path(file) for file in counted]
            found.notes.append(f"{len(files)} files in shell order (10 before 2) are used in number order")
    found.notes += [
        f"{file}: given {count} times, and used {count} times" for file, count in times.items() if count > 1
    ]
    return [found]


def _several_series(files: list[str], settings: SourceSettings) -> list[NamedSeries]:
    """The series of a shell's list of one folder, if several of them have several frames, or one is picked."""
    folders = {PurePath(file).parent for file in files}
    if len(folders) > 1 or files != sorted(set(files)):
        return []
    named = _named([PurePath(file).name for file in files], Path(folders.pop()), settings)
    several = sum(len(one.series.names) > 1 and bool(one.series.numbers) for one in named) > 1
    return named if several or settings.pick is not None else []


def found_in(source: str, settings: SourceSettings) -> list[Found]:
    path = Path(source)
    if path.is_dir():
        return _folder(path, settings)
    if "#" in source:
        return [_numbered(path, settings)]
    if glob.has_magic(source):
        return _matching(source, settings)
    if path.exists():
        raise SequenceError("is a pipe or a device, not a file; give a file or a folder", where=source)
    raise SequenceError(f"no such file or folder{_did_you_mean(path)}", where=source)


def _entries_in(folder: Path) -> list[os.DirEntry[str]]:
    """Return what they are is known from the folder itself, without asking for each."""
    with reading(folder), os.scandir(folder) as entries:
        return list(entries)


def _names_in(folder: Path) -> list[str]:
    return [entry.name for entry in _entries_in(folder)]


def _did_you_mean(path: Path) -> str:
    folder = path.parent
    names = _names_in(folder) if folder.is_dir() else []
    return did_you_mean(
        path.name, sorted(names), otherwise="check the name", written=lambda close: shown(folder / close)
    )


def _folder(folder: Path, settings: SourceSettings) -> list[Found]:
    named, notes, plain_notes = _in_folder(folder, settings)
    chosen = chosen_series(named, settings, shown(folder))
    if settings.series:
        chosen, more = once_each(chosen)
        notes += more
    found = [_chosen(one, _place_of(one, named, folder), settings) for one in chosen]
    found[0].notes += notes
    found[0].plain_notes += plain_notes
    return found


def _place_of(one: NamedSeries, named: Sequence[NamedSeries], folder: Path) -> str:
    """Where notes say that a series is: the folder, if there is no other in it."""
    return shown(folder) if len(named) == 1 else one.quoted.strip('"')


def series_in(source: str, settings: SourceSettings) -> list[NamedSeries]:
    """All series that a folder or a shell-style pattern holds; none for other sources."""
    path = Path(source)
    if path.is_dir():
        return _in_folder(path, settings)[0]
    return _matched(source, settings)[0] if glob.has_magic(source) and "#" not in source else []


def files_of_manifest(path: Path, settings: SourceSettings) -> Found | None:
    """The files in a manifest's folder that it describes now, whatever was done to them; None if there are none."""
    settings = settings._replace(series=True, pick=None, within=None)
    try:
        named = _in_folder(path.parent, settings)[0]
    except SequenceError:
        return None
    own = next((one for one in named if one.manifest == path), None)
    return None if own is None else _chosen(own, shown(path), settings)


def _in_folder(folder: Path, settings: SourceSettings) -> tuple[list[NamedSeries], list[str], list[str]]:
    """The series in a folder, with notes; where several may be meant, those of its sub-folders too."""
    entries = _entries_in(folder)
    names = sorted(entry.name for entry in _counting(entries, settings))
    images, notes = _only_images(names, shown(folder))
    notes += _not_files(entries, shown(folder))
    images, sheet_notes, plain_notes = _frames_alone(images, folder)
    notes += sheet_notes
    named = _named(images, folder, settings)
    if len(named) == 1:
        named = [named[0]._replace(name=folder.resolve().name or named[0].name)]
    inner = _in_sub_folders(entries, settings)
    if settings.series or settings.pick is not None:
        for one, more, more_maps in inner:
            named += one
            notes += more
            plain_notes += more_maps
    if not named:
        raise SequenceError(_nothing_in(folder, names, inner), where=shown(folder))
    return named, notes, plain_notes


def _in_sub_folders(
    entries: Sequence[os.DirEntry[str]], settings: SourceSettings
) -> list[tuple[list[NamedSeries], list[str], list[str]]]:
    """The series of each sub-folder that holds images, named with the folder in front: `keeper/walk`."""
    result = []
    for entry in sorted(entries, key=lambda entry: entry.name):
        # a link may lead back to where it is
        if entry.name.startswith(".") or entry.is_symlink() or not entry.is_dir():
            continue
        try:
            named, notes, plain_notes = _in_folder(Path(entry), settings._replace(series=True))
        except SequenceError:
            continue
        within = [
            one._replace(
                name=one.name if one.name == entry.name and not one.prefix else f"{entry.name}/{one.name}",
                prefix=f"{entry.name}/{one.prefix}",
            )
            for one in named
        ]
        result.append((within, notes, plain_notes))
    return result


def _nothing_in(
    folder: Path, names: Sequence[str], inner: Sequence[tuple[list[NamedSeries], list[str], list[str]]]
) -> str:
    if inner:
        listed = first_few([one.name for named, _, _ in inner for one in named])
        return f"no images in it, its sub-folders hold {listed}; use one of them, or {option('series', 'NAME')}"
    videos = [name for name in names if os.path.splitext(name)[1].lower() in VIDEO_SUFFIXES]
    if videos:
        return f"no images in it; give a video by its name, like {shown(folder / videos[0])}"
    what = "no images in it" if names else "the folder is empty"
    return f"{what}; expected {_suffix_list()} files"


def _counting(entries: Iterable[_Entry], settings: SourceSettings) -> list[_Entry]:
    """The files that may be frames: none that is hidden, a companion, or what the command wrote when it last ran.

    A target that is numbered as others are is a frame: to write there is refused elsewhere.
    """
    files = [
        entry
        for entry in entries
        if not entry.name.startswith(".") and not settings.is_companion(entry.name) and entry.is_file()
    ]
    targets = [entry for entry in files if settings.is_target(Path(entry))]
    if targets:
        numbered = {name for one in find_series([entry.name for entry in files]) if one.numbers for name in one.names}
        files = [entry for entry in files if entry not in targets or entry.name in numbered]
    return files


def _not_files(entries: Iterable[_Entry], where: str) -> list[str]:
    """A note on what is never opened: it would be waited for, or is not there."""
    others = [entry.name for entry in entries if not (entry.is_file() or entry.is_dir() or entry.name.startswith("."))]
    return [f"{where}: skipped, pipes, devices or broken links: {first_few(sorted(others))}"] if others else []


def _only_images(names: Iterable[str], where: str) -> tuple[list[str], list[str]]:
    names = list(names)
    images = [name for name in names if _is_image(name)]
    others = [name for name in names if not _is_image(name) and not name.endswith(SUFFIX)]
    return images, [f"{where}: skipped, not images: {first_few(others)}"] if others else []


def _is_image(name: str) -> bool:
    return os.path.splitext(name)[1].lower() in IMAGE_SUFFIXES


def _frames_alone(images: list[str], folder: Path) -> tuple[list[str], list[str], list[str]]:
    """The images that no manifest in the folder knows as a page of frames side by side, or as a companion map.

    With notes on the sheets and on the maps that are not among them.
    """
    manifests = [manifest for _, manifest in known_manifests(folder)]
    notes: list[list[str]] = []
    for what, known in (
        ("sheets", {file.file for each in manifests if each.is_layout for p in each.pages for file in p.maps.values()}),
        ("maps", {p.maps[name].file for each in manifests for p in each.pages for name in p.maps if name != COLOR}),
    ):
        left = sorted(known.intersection(images))
        images = [name for name in images if name not in left]
        notes.append([f"{shown(folder)}: skipped, {what} by their manifests: {first_few(left)}"] if left else [])
    return images, notes[0], notes[1]


def _frames_among(paths: list[str]) -> tuple[list[str], list[str], list[str]]:
    """Files of any folder but the sheets and maps among them, with notes; all of them, where there are only such."""
    by_folder: dict[Path, list[str]] = {}
    for path in paths:
        by_folder.setdefault(Path(path).parent, []).append(PurePath(path).name)
    left: set[Path] = set()
    notes: list[str] = []
    plain_notes: list[str] = []
    for folder, names in by_folder.items():
        frames, sheets, maps = _frames_alone(names, folder)
        left |= {folder / name for name in set(names).difference(frames)}
        notes += sheets
        plain_notes += maps
    kept = [path for path in paths if Path(path) not in left] if left else paths
    return (kept, notes, plain_notes) if kept else (paths, [], [])


def _suffix_list() -> str:
    return ", ".join(sorted(IMAGE_SUFFIXES))


def _numbered(path: Path, settings: SourceSettings) -> Found:
    if "#" in shown(path.parent) or glob.has_magic(shown(path.parent)):
        raise SequenceError("the number (#) must be in the file name, not in a folder name", where=shown(path))
    with located(shown(path.parent)):
        pattern = number_pattern(path.name)
    if not path.parent.is_dir():
        raise SequenceError(f"there is no folder {shown(path.parent)}; check the name", where=shown(path))
    counting = _counting(_entries_in(path.parent), settings)
    names = [entry.name for entry in counting if pattern.number_in(entry.name) is not None]
    if not names:
        raise SequenceError(f"no file matches{_did_you_mean(path)}", where=shown(path))
    frames, notes, plain_notes = _frames_among([str(path.parent / name) for name in names])
    names = [PurePath(frame).name for frame in frames]
    numbered = sorted((number, name) for name in names if (number := pattern.number_in(name)) is not None)
    series = Series(path.name, tuple(name for _, name in numbered), tuple(number for number, _ in numbered))
    (chosen,) = chosen_series([NamedSeries(stem_of(series), series, path.parent)], settings, shown(path))
    found = _chosen(chosen, shown(path), settings)
    found.notes += notes
    found.plain_notes += plain_notes
    return found


def _matching(source: str, settings: SourceSettings) -> list[Found]:
    named, notes, plain_notes = _matched(source, settings)
    chosen = chosen_series(named, settings, source)
    if settings.series:
        chosen, more = once_each(chosen)
        notes += more
    found = [_chosen(one, source if len(named) == 1 else one.quoted.strip('"'), settings) for one in chosen]
    found[0].notes += notes
    found[0].plain_notes += plain_notes
    return found


def _matched(source: str, settings: SourceSettings) -> tuple[list[NamedSeries], list[str], list[str]]:
    """The series that a shell-style pattern matches, with notes."""
    found_paths = [Path(match) for match in glob.glob(source, recursive=True)]
    matches = sorted(shown(path) for path in _counting(found_paths, settings))
    if not matches:
        raise SequenceError("no file matches; check the pattern, and quote it", where=source)
    images, notes = _only_images(matches, source)
    images, sheet_notes, plain_notes = _frames_among(images)
    notes += sheet_notes + _not_files(found_paths, source)
    if not images:
        raise SequenceError(f"no image matches; expected {_suffix_list()} files", where=source)
    return _named(images, Path(), settings), notes, plain_notes


def _named(images: list[str], folder: Path, settings: SourceSettings) -> list[NamedSeries]:
    """The series among files, named from `folder`; what a manifest beside them describes is one."""
    inside = {PurePath(name).parent for name in images}
    place = folder / inside.pop() if len(inside) == 1 else None
    if settings.undescribed or place is None or not any(place.glob(f"*{SUFFIX}")):
        return [NamedSeries(stem_of(one), one, folder) for one in find_series(images)]
    names = [PurePath(name).name for name in images]
    # as they are written: `./moth/0.png`, `moth/0.png`
    written = dict(zip(names, images, strict=True))
    folders = described_folders(known_manifests(place))
    found = series_of_folder(names, folders, max_pixels=settings.max_pixels)
    return [_named_series(_written(one, written), folder, by) for one, by in found]


def _named_series(series: Series, folder: Path, by: DescribedFolder | None) -> NamedSeries:
    """A series; one that a manifest describes is called after that, if no number says what it is called."""
    if by is None:
        return NamedSeries(stem_of(series), series, folder)
    name = stem_of(series) if series.numbers else by.path.name.removesuffix(SUFFIX)
    clips = tuple(clip.name for clip in by.manifest.clips)
    return NamedSeries(name, series, folder, clips=clips, manifest=by.path)


def _written(series: Series, written: Mapping[str, str]) -> Series:
    """The series with its files named as before."""
    first = written[series.names[0]]
    before = first[: len(first) - len(series.names[0])]
    pattern = series.pattern and before + series.pattern
    return series._replace(pattern=pattern, names=tuple(written[name] for name in series.names))


def _chosen(one: NamedSeries, where: str, settings: SourceSettings) -> Found:
    """The files of a series, within the range asked for."""
    within = settings.numbers
    series = one.series
    pairs = list(zip(series.names, series.numbers, strict=True)) if series.numbers else []
    if within and not pairs and one.manifest is None:
        raise SequenceError(f"{option('range')} needs numbered files, these have no frame number", where=where)
    if within and pairs:
        pairs = [(name, number) for name, number in pairs if number in within]
        if not pairs:
            there = f"{min(series.numbers)}-{max(series.numbers)}"
            raise SequenceError(
                f"no file has a number from {within.first} to {within.last}; there are {there}", where=where
            )
    names = [name for name, _ in pairs] or list(series.names)
    numbers = tuple(number for _, number in pairs)
    found = Found(one.name, [one.folder / name for name in names], numbers, prefix=one.prefix, pick=one.pick)
    found.gaps = missing_numbers(numbers, within) if numbers else []
    if found.gaps:
        there = f"{len(numbers)} files, {numbers[0]}-{numbers[-1]}"
        found.plain_notes.append(f"{where}: numbers missing: {spans(found.gaps)} ({there})")
    counted = Counter(number for name, number in pairs if not is_between(name))
    twice = [number for number, times in counted.items() if times > 1]
    if twice:
        same = [name for name, number in pairs if number == twice[0]]
        found.notes.append(f"{where}: number {twice[0]} appears {len(same)} times: {first_few(same)}; all are used")
    return found
