"""Companion maps: which of their frames belongs to which frame of the colour map."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from kivel.core.contents import Content, content_of
from kivel.core.errors import option
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Size
from kivel.core.wording import counted, first_few
from kivel.files.images import FrameSource, open_image
from kivel.files.manifest.names import SUFFIX
from kivel.files.safety import shown
from kivel.sequences.map_frames import MapError, MapFrames, common_depth
from kivel.sequences.opening import open_sources
from kivel.sequences.sequence import FrameSequence, joined
from kivel.sequences.settings import SourceSettings

if TYPE_CHECKING:
    from kivel.core.motion.pairs import MotionPairs

__all__ = ["MapRequest", "companion_maps", "map_left", "maps_left", "open_with_maps", "with_companions"]


class MapRequest(NamedTuple):
    """Holds what is asked of a map: sources, one for each sequence or one for all; or a suffix of each frame's own
    name.

    With neither it is a map that the sequences bring along. Its sides are one part of this many `parts` of the colour
    map's; None is for the map itself to say.
    """

    name: str
    sources: tuple[str, ...] = ()
    suffix: str | None = None
    content: Content | None = None
    parts: int | None = None

    @property
    def is_brought(self) -> bool:
        return not self.sources and self.suffix is None


class _Found(NamedTuple):
    """The frames of a map, None where there is none, and what is known of it."""

    frames: list[FrameSource | None]
    content: Content
    parts: int
    notes: list[str]
    motion: MotionPairs | None = None


def companion_maps(
    sequences: Sequence[FrameSequence], requests: Sequence[MapRequest], settings: SourceSettings, *, neutral: bool
) -> tuple[list[MapFrames], list[str]]:
    """The maps that were asked for and those that the sequences bring along, and notes about them.

    Under `neutral` frames may be missing; a map that only some sequences bring along is left out otherwise.

    Raises
    ------
    MapError
        If a map is out of step: a frame is missing, too many or of another size, or does not divide.
    SequenceError, ImageError, PngError, OutputError
        If its files cannot be read.
    """
    maps, notes = [], []
    for request in _with_brought(sequences, requests):
        lacking = _lacking(sequences, request)
        if lacking and not neutral:
            notes.append(map_left(request.name, lacking))
            continue
        found = _brought(sequences, request) if request.is_brought else _found(sequences, request, settings)
        maps.append(_matching(sequences, found, request, neutral))
        notes += [f"map {request.name}: {note}" for note in found.notes]
        missing = [f.name for f, other in zip(_all(sequences), found.frames, strict=True) if other is None]
        if missing:
            notes.append(f"map {request.name}: neutral for {first_few(missing)}")
    return maps, notes


def open_with_maps(
    sources: Sequence[str], requests: Sequence[MapRequest], settings: SourceSettings, *, neutral: bool
) -> FrameSequence:
    """The frames that sources mean, one after the other, with the maps that were asked for and those they bring along.

    Raises what `open_sources` and `companion_maps` do.
    """
    suffixes = tuple(request.suffix for request in requests if request.suffix)
    sequence = open_sources(sources, settings._replace(with_maps=True, companions=suffixes))
    if not (requests or sequence.maps):
        return sequence
    maps, notes = companion_maps([sequence], requests, settings, neutral=neutral)
    return sequence._replace(maps=tuple(maps)).noted(*notes)


def with_companions(source: str, requests: Sequence[MapRequest], settings: SourceSettings) -> list[MapRequest]:
    """The maps that are asked for by a suffix, and that a source has a file of beside any of its frames."""
    suffixes = [request for request in requests if request.suffix]
    if not suffixes:
        return []
    companions = tuple(request.suffix for request in suffixes if request.suffix)
    frames = open_sources([source], settings._replace(companions=companions)).frames
    return [one for one in suffixes if any(_path_beside(frame, one.suffix or "").is_file() for frame in frames)]


def _with_brought(sequences: Sequence[FrameSequence], requests: Sequence[MapRequest]) -> list[MapRequest]:
    """The maps asked for, and after them those that are brought along unasked."""
    brought = dict.fromkeys(one.name for sequence in sequences for one in sequence.maps)
    for request in requests:
        if request.is_brought and request.name not in brought:
            given = f"{option('map', f'{request.name}=SRC')} or {option('map-suffix')}"
            raise MapError(f"there is no map {request.name!r}; give its frames with {given}")
    asked = {request.name for request in requests}
    return [*requests, *(MapRequest(name) for name in brought if name not in asked)]


def _lacking(sequences: Sequence[FrameSequence], request: MapRequest) -> list[str]:
    """The sequences that do not bring along a map that others do."""
    if not request.is_brought:
        return []
    return [each.stem for each in sequences if request.name not in {one.name for one in each.maps}]


def map_left(name: str, lacking: Sequence[str]) -> str:
    """Return the note on a map that only some sequences have."""
    todo = f"{option('map', f'{name}=SRC')} or {option('missing-map', 'neutral')}"
    return f"map {name} skipped, {first_few(lacking)} has none; pass {todo} to include it"


def maps_left(sequences: Sequence[FrameSequence]) -> list[str]:
    """Notes on the maps that sequences have and that cannot follow what is done to their colour."""
    return [
        f"{sequence.stem}{SUFFIX}: its map {one.name} is skipped: it cannot follow what is done to the colour; "
        f"kivel slice with {option('show', one.name)} extracts it"
        for sequence in sequences
        for one in sequence.maps
    ]


def _all(sequences: Sequence[FrameSequence]) -> list[FrameSource]:
    return [frame for sequence in sequences for frame in sequence.frames]


def _brought(sequences: Sequence[FrameSequence], request: MapRequest) -> _Found:
    """A map that sequences bring along; None for the frames of those that do not."""
    from kivel.core.motion.pairs import joined_motion

    frames: list[FrameSource | None] = []
    known: list[MapFrames] = []
    found = [next((one for one in sequence.maps if one.name == request.name), None) for sequence in sequences]
    motion = joined_motion((one and one.motion, len(each.frames)) for one, each in zip(found, sequences, strict=True))
    for sequence, one in zip(sequences, found, strict=True):
        one = one.reaching(motion.reach) if one and motion else one
        frames += one.frames if one else [None] * len(sequence.frames)
        known += [one] if one else []
    parts = request.parts or known[0].parts
    for one in known:
        if one.content != known[0].content or (one.parts != parts and request.parts is None):
            raise MapError(f"map {request.name} differs in kind or scale among the sources; make it the same first")
    return _Found(frames, request.content or known[0].content, parts, [], motion)


def _found(sequences: Sequence[FrameSequence], request: MapRequest, settings: SourceSettings) -> _Found:
    """The map's frame for each of the colour map's, None where there is none."""
    # of a manifest that lacks the map, the colour map is what is meant
    settings = settings._replace(
        show=request.name, or_color=True, companions=(), target=None, with_maps=False, arrays=()
    )
    content, parts = request.content or content_of(request.name), request.parts or 1
    if request.suffix is not None:
        return _Found([_beside(frame, request.suffix, settings) for frame in _all(sequences)], content, parts, [])
    sources = request.sources
    if len(sources) == 1 and len(sequences) > 1:
        sequences = [joined(sequences)]
    if len(sources) != len(sequences):
        raise MapError(
            f"map {request.name} has {len(sources)} sources for {len(sequences)} sequences; give one for each, "
            "or one for all"
        )
    frames: list[FrameSource | None] = []
    notes: list[str] = []
    for sequence, source in zip(sequences, sources, strict=True):
        opened = open_sources([source], settings)
        frames += _in_step(sequence, opened, request.name, source)
        notes += opened.notes
    return _Found(frames, content, parts, notes)


def _path_beside(frame: FrameSource, suffix: str) -> Path:
    return frame.path.with_name(frame.path.stem + suffix + frame.path.suffix)


def _beside(frame: FrameSource, suffix: str, settings: SourceSettings) -> FrameSource | None:
    path = _path_beside(frame, suffix)
    if not path.is_file():
        return None
    opened = open_image(path, max_pixels=settings.max_pixels)
    index = int(frame.source.rpartition("#")[2]) if len(opened) > 1 and "#" in frame.source else 0
    return opened[index] if index < len(opened) else None


def _in_step(sequence: FrameSequence, opened: FrameSequence, name: str, source: str) -> list[FrameSource | None]:
    """By number where all frames of both have one, else in order."""
    numbers = [frame.number for frame in sequence.frames]
    others = [frame.number for frame in opened.frames]
    if None in numbers or None in others or len(set(numbers)) < len(numbers):
        return _in_order(sequence, opened, name, source)
    by_number = {frame.number: frame for frame in opened.frames}
    surplus = [frame.source for frame in opened.frames if frame.number not in set(numbers)]
    # numbered from 0 here and from 1001 there: two ways of counting, not frames out of step
    if surplus and set(numbers).isdisjoint(others):
        return _in_order(sequence, opened, name, source)
    if surplus:
        raise MapError(
            f"map {name} is out of step: {first_few(surplus)} has no colour frame with its number; "
            f"remove it, or choose the same {option('range')}",
            where=source,
        )
    return [by_number.get(number) for number in numbers]


def _in_order(sequence: FrameSequence, opened: FrameSequence, name: str, source: str) -> list[FrameSource | None]:
    count, others = len(sequence.frames), len(opened.frames)
    if others > count:
        raise MapError(
            f"map {name} has {counted(others, 'frame')}, {sequence.stem} has {count}; remove some", where=source
        )
    return [*opened.frames, *[None] * (count - others)]


def _matching(sequences: Sequence[FrameSequence], found: _Found, request: MapRequest, neutral: bool) -> MapFrames:
    frames = _all(sequences)
    pairs = list(zip(frames, found.frames, strict=True))
    sizes = tuple(_size_of(frame, other, request.name, found.parts) for frame, other in pairs)
    missing = [frame for frame, other in pairs if other is None]
    if missing and not neutral:
        expected = f" ({missing[0].path.stem}{request.suffix}{missing[0].path.suffix})" if request.suffix else ""
        more = f"; {len(missing)} of {len(frames)} are missing" if len(missing) > 1 else ""
        todo = f"render it, or pass {option('missing-map', 'neutral')}"
        raise MapError(
            f"map {request.name} has no frame for it{expected}{more}; {todo}",
            where=shown(missing[0].path.with_name(missing[0].source)),
        )
    depth = common_depth([frame for frame in found.frames if frame], request.name)
    return MapFrames(request.name, found.content, tuple(found.frames), sizes, depth, found.parts, motion=found.motion)


def _size_of(frame: FrameSource, other: FrameSource | None, name: str, parts: int) -> Size:
    """The size of a map's frame; it may be given whole where a part of it is wanted."""
    if frame.size.w % parts or frame.size.h % parts:
        scale = option("map-scale", f"{name}=1/{parts}")
        raise MapError(
            f"{frame.size} px do not divide by {parts}, which {scale} needs; pad it first",
            where=shown(frame.path.with_name(frame.source)),
        )
    size = Size(frame.size.w // parts, frame.size.h // parts)
    if other is not None and other.size not in (size, frame.size):
        part = f" or, at 1/{parts}, {size}" if parts > 1 else ""
        raise MapError(
            f"{other.size} px, its colour frame has {frame.size}{part} ({frame.source}); render it again",
            where=shown(other.path.with_name(other.source)),
        )
    return size
