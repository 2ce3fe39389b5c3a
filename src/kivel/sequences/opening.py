"""From what means sources (`SRC`) to sequences whose pixels can be had."""

from __future__ import annotations

import contextlib
import os
import threading
from collections import Counter
from collections.abc import Callable, Sequence
from fnmatch import fnmatchcase
from fractions import Fraction
from itertools import accumulate
from pathlib import Path
from typing import TYPE_CHECKING

from kivel.core.errors import AllErrors, option
from kivel.core.numbering import SequenceError
from kivel.core.pixels.pixels import Pixels, bit_depth, require_rgba, size_of
from kivel.core.playback.notation import TimeRange, format_seconds
from kivel.core.wording import counted, counted_from_0, first_few
from kivel.files.images import FrameSource, open_image
from kivel.files.manifest.names import COLOR, SUFFIX
from kivel.files.manifest.parsing import read_manifest
from kivel.files.safety import reading, shown
from kivel.sequences.clip_parts import joined_as_clips
from kivel.sequences.clips import part_of, stated_holds, with_clips_alone, with_rate
from kivel.sequences.finding import Found, files_of_manifest, found_in, listed_files
from kivel.sequences.placed import sequence_of_manifest
from kivel.sequences.sequence import FrameSequence, joined
from kivel.sequences.settings import SourceSettings

if TYPE_CHECKING:
    from kivel.core.playback.clip import Clip

__all__ = ["open_sequences", "open_sources"]

_MOST_SIDE_BY_SIDE = 1 << 23
"""Pixels of float frames that are read on several threads at a time; larger ones are read one by one."""
_LARGE = threading.Lock()


def open_sources(sources: Sequence[str], settings: SourceSettings) -> FrameSequence:
    """The frames that the sources mean, one after the other.

    Raises
    ------
    SequenceError
        If a source names nothing, holds no images, or holds several series.
    ImageError, PngError, ManifestError, OutputError
        If a file cannot be read; the files' headers are looked at now, their pixels when they are asked for.
    """
    parts = _gathered(sources, settings)
    picked = settings.several and settings.pick is not None
    return _within_range(joined_as_clips(parts) if picked else joined(parts), settings)


def open_sequences(sources: Sequence[str], settings: SourceSettings) -> list[FrameSequence]:
    """The sequences that the sources mean: each folder, pattern, animated image and manifest, and files in a row.

    Raises what `open_sources` does.
    """
    sequences = _gathered(sources, settings)
    if settings.numbers and any(frame.number is not None for sequence in sequences for frame in sequence.frames):
        return sequences
    return [_within_range(sequence, settings) for sequence in sequences]


def _gathered(sources: Sequence[str], settings: SourceSettings) -> list[FrameSequence]:
    if len(settings.arrays):
        return [_as_stated(_of_arrays(settings), settings)]
    if len(sources) == 1 and sources[0].endswith(".json"):
        return [_as_stated(_of_manifest(Path(sources[0]), settings), settings)]
    groups = _neighbours(sources)
    settings = settings._replace(one_of_many=len(groups) > 1)
    parts: list[FrameSequence] = []
    for group in groups:
        parts += _open_one(group, settings) if isinstance(group, str) else _of_files(group, settings)
    return _told_of_twice([_as_stated(part, settings) for part in parts])


def _told_of_twice(parts: list[FrameSequence]) -> list[FrameSequence]:
    """The sequences, with a note on frames that several of them have: both are used."""
    places: dict[tuple[str, str], set[int]] = {}
    for number, part in enumerate(parts if len(parts) > 1 else ()):
        for frame in part.frames:
            places.setdefault((os.path.abspath(frame.path), frame.source), set()).add(number)
    twice = [source for (_, source), numbers in places.items() if len(numbers) > 1]
    if not twice:
        return parts
    note = f"{counted(len(twice), 'frame')} in more than one source, and used each time: {first_few(twice)}"
    return [*parts[:-1], parts[-1].noted(note)]


def _neighbours(sources: Sequence[str]) -> list[str | list[str]]:
    """Sources by themselves, but files that are side by side in one list: they are a sequence together."""
    groups: list[str | list[str]] = []
    for source in sources:
        with reading(Path(source)):
            is_image = Path(source).is_file() and not source.endswith(".json")
        if not is_image:
            groups.append(source)
        elif groups and isinstance(groups[-1], list):
            groups[-1].append(source)
        else:
            groups.append([source])
    return groups


def _of_arrays(settings: SourceSettings) -> FrameSequence:
    """Frames that are there already, called after what is to be written."""
    stem = settings.target.stem if settings.target else "frames"
    frames = []
    for number, image in enumerate(settings.arrays):
        require_rgba(image)
        frames.append(
            FrameSource(
                name=f"{stem}_{number:04d}",
                source=f"{stem}_{number:04d}",
                path=Path(stem),
                size=size_of(image),
                depth=bit_depth(image),
                mode="array",
                load=_given(image),
                number=number,
            )
        )
    return FrameSequence(stem, tuple(frames))


def _given(image: Pixels) -> Callable[[], Pixels]:
    """Gives an array, into which nobody may write."""
    view = image.view()
    view.setflags(write=False)
    return lambda: view


def _of_files(files: list[str], settings: SourceSettings) -> list[FrameSequence]:
    """Files named in a row: animated images are a sequence each, stills are one together."""
    every = [_opened(found, settings) for found in listed_files(files, settings)]
    frames_of = Counter(frame.path for opened in every for frame in opened.frames)
    if len(every) > 1 or len(files) == 1 or min(frames_of.values()) == 1 or len(frames_of) < len(files):
        return every
    return [_opened(found, settings) for file in files for found in listed_files([file], settings)]


def _open_one(source: str, settings: SourceSettings) -> list[FrameSequence]:
    if source.endswith(".json"):
        return [_of_manifest(Path(source), settings)]
    return [_opened(found, settings) for found in found_in(source, settings)]


def _opened(found: Found, settings: SourceSettings) -> FrameSequence:
    """As a manifest beside the files says, if one describes them; else by the files alone."""
    if not settings.undescribed and any(
        found.paths[0].parent.glob(f"*{SUFFIX}")
    ):  # to read one loads the models, which takes its time
        from kivel.sequences.reconciling.described import described

        if sequence := described(found, settings):
            if found.pick is None:
                return sequence
            where = shown(found.paths[0].parent)
            meant = _meant_clips(sequence, found.pick, where, several=settings.several)
            return with_clips_alone(sequence, meant)
    frames: list[FrameSource] = []
    numbers: Sequence[int | None] = found.numbers or [None] * len(found.paths)
    errors = AllErrors()
    for path, number in zip(found.paths, numbers, strict=True):
        with errors.kept():
            _check_name(path)
            opened = open_image(path, max_pixels=settings.max_pixels, layers=settings.layers)
            frames += [frame._replace(number=number, name=found.prefix + frame.name) for frame in opened]
    errors.raise_any()
    notes = [
        *found.notes,
        *found.plain_notes,
        *_colour_notes(frames),
        *_depth_notes(frames),
        *_zero_notes(frames),
        *dict.fromkeys(f"{shown(frame.path)}: {note}" for frame in frames for note in frame.notes),
    ]
    return FrameSequence(found.stem, tuple(frames), notes=tuple(notes), gaps=tuple(found.gaps))


def _as_stated(sequence: FrameSequence, settings: SourceSettings) -> FrameSequence:
    """As deep as is asked for, and at the stated rate."""
    sequence = _developed(sequence, settings)
    return with_rate(sequence, settings.rate) if settings.rate else sequence


def _developed(sequence: FrameSequence, settings: SourceSettings) -> FrameSequence:
    """Float frames as 8 or 16 bits where they are not to stay float."""
    stops = settings.exposure
    if sequence.depth != 32 or (stops is None and settings.keep_float):
        return sequence
    bits = settings.developed_bits
    frames = tuple(_exposed(frame, stops or 0.0, bits) for frame in sequence.frames)
    note = f"OpenEXR is converted to {bits}-bit sRGB at exposure 0; {option('exposure')} makes it brighter or darker"
    return sequence._replace(frames=frames).noted(*([note] if stops is None else []))


def _exposed(frame: FrameSource, stops: float, bits: int) -> FrameSource:
    if frame.depth != 32:
        return frame
    from kivel.core.pixels.exposure import exposed  # for OpenEXR alone

    load = frame.load
    # light takes sixteen bytes a pixel, and as much again while it is read
    alone = _LARGE if frame.size.w * frame.size.h > _MOST_SIDE_BY_SIDE else contextlib.nullcontext()

    def developed() -> Pixels:
        with alone:
            return exposed(load(), stops, depth=bits)

    return frame._replace(depth=bits, load=developed)


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
    held = f"held for 100 ms, as most players do (or use {option('hold')})"
    return [f"a duration of 0 is stated for {first_few(zero)}; {held}"]


def _colour_notes(frames: list[FrameSource]) -> list[str]:
    noted = [frame for frame in frames if frame.colour_note]
    if not noted:
        return []
    more = f" and {len(noted) - 1} more" if len(noted) > 1 else ""
    return [f"{shown(noted[0].path)}{more}: not applied: {noted[0].colour_note}; the pixel values stay as they are"]


def _depth_notes(frames: list[FrameSource]) -> list[str]:
    deep = [frame for frame in frames if frame.depth == 16]
    if any(frame.depth == 32 for frame in frames):
        return []
    if not 0 < len(deep) < len(frames):
        return []
    return [f"{len(deep)} of {len(frames)} frames have 16 bits a channel ({deep[0].source}); all become 16 bits"]


def _within_range(sequence: FrameSequence, settings: SourceSettings) -> FrameSequence:
    """Frames whose files have no numbers of their own, of an animated image or a manifest, count from 0."""
    within = settings.within
    if isinstance(within, TimeRange):
        return part_of(sequence, _frames_between(sequence, within))
    if within is None or any(frame.number is not None for frame in sequence.frames):
        return sequence
    count = len(sequence.frames)
    if within.last >= count:
        asked = option("range", f"{within.first}-{within.last}")
        raise SequenceError(f"{asked}: there are {counted_from_0(count, 'frame')}", where=sequence.stem)

    return part_of(sequence, range(within.first, within.last + 1))


def _frames_between(sequence: FrameSequence, times: TimeRange) -> list[int]:
    """The frames that begin within a time, by the holds that they come with."""
    holds = stated_holds(sequence)
    if not all(holds):
        asked = option("range", str(times))
        raise SequenceError(f"{asked} needs frames that state how long they show; give numbers", where=sequence.stem)
    starts = list(accumulate((hold for hold in holds if hold), initial=Fraction(0)))
    chosen = [index for index, start in enumerate(starts[:-1]) if times.first <= start < times.end]
    if not chosen:
        asked = option("range", str(times))
        raise SequenceError(
            f"{asked}: no frame begins then, all end at {format_seconds(starts[-1])}", where=sequence.stem
        )
    return chosen


def _of_manifest(path: Path, settings: SourceSettings) -> FrameSequence:
    manifest = read_manifest(path)
    gone = [page.maps[COLOR].file for page in manifest.pages if not (path.parent / page.maps[COLOR].file).is_file()]
    found = files_of_manifest(path, settings) if gone and not manifest.is_layout else None
    if found:
        from kivel.sequences.reconciling.described import described

        whole = described(found, settings._replace(pick=None)) or sequence_of_manifest(manifest, path, settings)
    else:
        whole = sequence_of_manifest(manifest, path, settings)
    if settings.pick is None or (settings.one_of_many and len(whole.clips) < 2):
        return whole
    return with_clips_alone(whole, _meant_clips(whole, settings.pick, shown(path), several=settings.several))


def _meant_clips(sequence: FrameSequence, pick: str, where: str, *, several: bool) -> list[Clip]:
    """Clips are beside each other in a manifest as series are in a folder."""
    meant: list[Clip] = []
    for word in [pick] if any(fnmatchcase(clip.name, pick) for clip in sequence.clips) else pick.split(","):
        found = [clip for clip in sequence.clips if fnmatchcase(clip.name, word.strip())]
        if not found:
            names = first_few([clip.name for clip in sequence.clips])
            there = f"are {names}" if names else "is none"
            raise SequenceError(f"there is no clip {word.strip()!r}; there {there}", where=where)
        meant += [clip for clip in found if clip not in meant]
    if len(meant) > 1 and not several:
        names = first_few([clip.name for clip in meant])
        raise SequenceError(f"{option('series', pick)} matches {len(meant)} clips, choose one: {names}", where=where)
    return meant
