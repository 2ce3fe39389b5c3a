"""Companion maps: which of their frames belongs to which frame of the colour map."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from kivel.core.contents import Content, content_of, empty
from kivel.core.errors import KivelError
from kivel.core.pixels import Pixels, Size, size_of, widened
from kivel.core.wording import first_few
from kivel.files.images import FrameSource, open_image
from kivel.files.manifest.names import COLOR
from kivel.files.safety import shown
from kivel.sequences.opening import SourceOptions, joined, open_sources
from kivel.sequences.sequence import Frames

if TYPE_CHECKING:
    from kivel.core.scaling import Filter

__all__ = ["MapError", "MapFrames", "MapRequest", "base_map", "companion_maps"]

_DTYPES = {8: "uint8", 16: "uint16", 32: "float32"}


class MapError(KivelError):
    """A map is out of step with the colour map."""


class MapRequest(NamedTuple):
    """A map that was asked for: sources, one for each sequence or one for all; or a suffix of each frame's own name.

    Its sides are one part of so many `parts` of the colour map's.
    """

    name: str
    sources: tuple[str, ...] = ()
    suffix: str | None = None
    content: Content | None = None
    parts: int = 1


class MapFrames(NamedTuple):
    """One map of a layout: a frame for each of the colour map's, None where it is missing and neutral instead."""

    name: str
    content: Content
    frames: tuple[FrameSource | None, ...]
    sizes: tuple[Size, ...]
    depth: int
    parts: int = 1
    filter: Filter | None = None

    def resized(self, sizes: Sequence[Size], filter: Filter | None) -> MapFrames:
        """The same map for colour frames of other sizes; without a filter, `box` shrinks and `lanczos` enlarges.

        Raises
        ------
        MapError
            If they do not divide.
        """
        for size in sizes:
            if size.w % self.parts or size.h % self.parts:
                raise MapError(f"map {self.name}: frames scaled to {size} px do not divide by {self.parts}")
        divided = tuple(Size(size.w // self.parts, size.h // self.parts) for size in sizes)
        return self._replace(sizes=divided, filter=filter)

    @property
    def dtype(self) -> str:
        return _DTYPES[self.depth]

    def load(self, index: int) -> Pixels:
        """A frame's pixels, at this map's own depth and size."""
        frame, size = self.frames[index], self.sizes[index]
        if frame is None:
            opaque = not all(other is None for other in self.frames)
            return empty(self.content, (size.h, size.w), self.dtype, opaque=opaque)
        image = widened(frame.load(), self.depth)
        shrinks = image.shape[1] >= size.w and image.shape[0] >= size.h
        if size_of(image) == size:
            return image
        from kivel.core.scaling import scaled  # slow to load, and rare

        how: Filter = self.filter or ("box" if shrinks else "lanczos")
        return scaled(image, size, filter=how, kind=self.content.kind)


def base_map(frames: Sequence[FrameSource]) -> MapFrames:
    """The colour map itself."""
    depth = _common_depth(frames, COLOR)
    return MapFrames(COLOR, content_of(COLOR), tuple(frames), tuple(frame.size for frame in frames), depth)


def _common_depth(frames: Sequence[FrameSource], name: str) -> int:
    """That of the deepest frame; float and whole numbers do not mix."""
    depths = {frame.depth for frame in frames} or {8}
    if 32 in depths and len(depths) > 1:
        raise MapError(f"map {name} has float frames and others; name the sheet .png to take all as 8 bits")
    return max(depths)


def companion_maps(
    sequences: Sequence[Frames], requests: Sequence[MapRequest], settings: SourceOptions, *, neutral: bool
) -> tuple[list[MapFrames], list[str]]:
    """The maps that were asked for, and notes about them; under `neutral` frames may be missing.

    Raises
    ------
    MapError
        If a map is out of step: a frame is missing, too many or of another size, or does not divide.
    SequenceError, ImageError, PngError, OutputError
        If its files cannot be read.
    """
    maps, notes = [], []
    for request in requests:
        found, said = _found(sequences, request, settings)
        maps.append(_matching(sequences, found, request, neutral))
        notes += [f"map {request.name}: {note}" for note in said]
        missing = [frame.name for frame in _all(sequences) if frame.name in _missing_names(sequences, found)]
        if missing:
            notes.append(f"map {request.name}: neutral for {first_few(missing)}")
    return maps, notes


def _all(sequences: Sequence[Frames]) -> list[FrameSource]:
    return [frame for sequence in sequences for frame in sequence.frames]


def _missing_names(sequences: Sequence[Frames], found: Sequence[FrameSource | None]) -> set[str]:
    return {frame.name for frame, other in zip(_all(sequences), found, strict=True) if other is None}


def _found(
    sequences: Sequence[Frames], request: MapRequest, settings: SourceOptions
) -> tuple[list[FrameSource | None], list[str]]:
    """The map's frame for each of the colour map's, None where there is none."""
    settings = settings._replace(map=request.name, companions=(), target=None)
    if request.suffix is not None:
        return [_beside(frame, request.suffix, settings) for frame in _all(sequences)], []
    sources = request.sources
    if len(sources) == 1 and len(sequences) > 1:
        sequences = [joined(sequences)]
    if len(sources) != len(sequences):
        raise MapError(
            f"map {request.name} has {len(sources)} sources for {len(sequences)} sequences; give one for each, or one"
        )
    found: list[FrameSource | None] = []
    notes: list[str] = []
    for sequence, source in zip(sequences, sources, strict=True):
        opened = open_sources([source], _for_source(source, settings))
        found += _in_step(sequence, opened, request.name, source)
        notes += opened.notes
    return found, notes


def _for_source(source: str, settings: SourceOptions) -> SourceOptions:
    """Of a manifest that lacks the map, the colour map is what is meant."""
    if not source.endswith(".json"):
        return settings
    from kivel.files.manifest.parsing import read_manifest

    manifest = read_manifest(Path(source))
    has_map = all(settings.map in page.maps for page in manifest.pages)
    return settings if has_map else settings._replace(map=COLOR)


def _beside(frame: FrameSource, suffix: str, settings: SourceOptions) -> FrameSource | None:
    path = frame.path.with_name(frame.path.stem + suffix + frame.path.suffix)
    if not path.is_file():
        return None
    opened = open_image(path, max_pixels=settings.max_pixels)
    index = int(frame.source.rpartition("#")[2]) if len(opened) > 1 and "#" in frame.source else 0
    return opened[index] if index < len(opened) else None


def _in_step(sequence: Frames, opened: Frames, name: str, source: str) -> list[FrameSource | None]:
    """By number where all frames of both have one, else in order."""
    numbers = [frame.number for frame in sequence.frames]
    others = [frame.number for frame in opened.frames]
    if None in numbers or None in others or len(set(numbers)) < len(numbers):
        return _in_order(sequence, opened, name, source)
    by_number = {frame.number: frame for frame in opened.frames}
    surplus = [frame.source for frame in opened.frames if frame.number not in set(numbers)]
    if surplus and set(numbers).isdisjoint(others):
        return _in_order(sequence, opened, name, source)
    if surplus:
        raise MapError(
            f"map {name} is out of step: {first_few(surplus)} has no colour frame of its number; "
            "remove it, or choose the same --range",
            where=source,
        )
    return [by_number.get(number) for number in numbers]


def _in_order(sequence: Frames, opened: Frames, name: str, source: str) -> list[FrameSource | None]:
    count, others = len(sequence.frames), len(opened.frames)
    if others > count:
        raise MapError(f"map {name} has {others} frames, {sequence.stem} has {count}; leave some out", where=source)
    return [*opened.frames, *[None] * (count - others)]


def _matching(
    sequences: Sequence[Frames], found: Sequence[FrameSource | None], request: MapRequest, neutral: bool
) -> MapFrames:
    content = request.content or content_of(request.name)
    frames = _all(sequences)
    sizes = [_size_of(frame, other, request) for frame, other in zip(frames, found, strict=True)]
    missing = [frame for frame, other in zip(frames, found, strict=True) if other is None]
    if missing and not neutral:
        expected = f" ({missing[0].path.stem}{request.suffix}{missing[0].path.suffix})" if request.suffix else ""
        more = f"; {len(missing)} of {len(frames)} are missing" if len(missing) > 1 else ""
        raise MapError(
            f"map {request.name} has no frame for it{expected}{more}; render it, or pass --missing-map neutral",
            where=shown(missing[0].path.with_name(missing[0].source)),
        )
    depth = _common_depth([frame for frame in found if frame], request.name)
    return MapFrames(request.name, content, tuple(found), tuple(sizes), depth, request.parts)


def _size_of(frame: FrameSource, other: FrameSource | None, request: MapRequest) -> Size:
    """The size of a map's frame; it may be given whole where a part of it is wanted."""
    parts = request.parts
    if frame.size.w % parts or frame.size.h % parts:
        raise MapError(
            f"{frame.size} px do not divide by {parts}, which --map-scale {request.name}=1/{parts} needs; pad it first",
            where=shown(frame.path.with_name(frame.source)),
        )
    size = Size(frame.size.w // parts, frame.size.h // parts)
    if other is not None and other.size not in (size, frame.size):
        part = f" or, at 1/{parts}, {size}" if parts > 1 else ""
        raise MapError(
            f"{other.size} px, the frame that it is the {request.name} map of has {frame.size}{part} "
            f"({frame.source}); render it again",
            where=shown(other.path.with_name(other.source)),
        )
    return size
