"""Frames looked at before they are packed: what of each is worth its place, and what tells it from others."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterable, Sequence

import numpy as np
from numpy.typing import NDArray

from kivel.core.digest import pixel_digest
from kivel.core.layout.placement import FLIPS, Flip, Placement, flipped
from kivel.core.named_tuples import NamedTuple
from kivel.core.outline import Polygon, outlined
from kivel.core.pixels.indexed import ColourTable, Indices, StoredPalette
from kivel.core.pixels.pixels import Box, Pixels, Rect, Size, Value, full_scale, is_opaque, size_of, visibility
from kivel.core.survey import union
from kivel.core.trimming import AlphaProfile, content_box, drawn_box, mask_bounds, same_key, surroundings
from kivel.files.manifest.names import COLOR
from kivel.files.threads import in_order
from kivel.sequences.map_frames import MapFrames

__all__ = ["Kept", "TrimRequest", "Trimmed", "trimmed"]

_FAINT = 8 / 255
_KEPT_BYTES = 96 << 20
"""So much of what was decoded to be measured is kept until it is placed; the rest is decoded again."""


class TrimRequest(NamedTuple):
    """How frames are trimmed: what counts as visible (alpha of 0 to 255), and by which maps.

    `step` is what boxes must divide by. `keep_hidden` keeps all colour under alpha 0, `hidden_counts` tells frames
    apart by it. `outline` is how many points a polygon may have, 0 for none; frames of one of the sets
    `outlined_together` have the same one, around all of them.
    """

    visible_above: int = 0
    trim: bool = True
    by_color: bool = False
    keep_hidden: bool = False
    hidden_counts: bool = True
    share_flips: bool = False
    step: int = 1
    outline: int = 0
    outlined_together: tuple[frozenset[int], ...] = ()


class Trimmed(NamedTuple):
    """One frame, looked at: the box to pack, and what tells it from others.

    `key` is equal for frames whose pixels in the box are, in all maps; `mirrored` has the keys that its mirror images
    would have. `grounds` are, by map, the values around the box: none, one, or two of several. `tighter` is the area of
    the box that alpha above 8 would need.
    """

    box: Box
    key: tuple[str, ...]
    mirrored: dict[tuple[str, ...], Flip]
    grounds: dict[str, list[Value]]
    tighter: int
    outline: Polygon | None


class Kept:
    """Pixels that were cut out while measuring, until they are placed."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._parts: dict[tuple[str, int], Pixels] = {}
        self._bytes = 0

    def put(self, name: str, index: int, part: Pixels) -> None:
        with self._lock:
            if self._bytes + part.nbytes > _KEPT_BYTES:
                return
            self._bytes += part.nbytes
        # a copy: a view would keep the whole frame in memory
        copy = np.array(part)
        with self._lock:
            self._parts[name, index] = copy

    def keep_only(self, wanted: Iterable[int]) -> None:
        """Let go of all other frames."""
        indexes = set(wanted)
        for name, index in list(self._parts):
            if index not in indexes:
                del self._parts[name, index]

    def part(self, of: MapFrames, index: int, placement: Placement) -> Pixels:
        """The pixels of a placement's box, and let go of here; decoded again if they were not kept."""
        with self._lock:
            kept = self._parts.pop((of.name, index), None)
        return placement.box.of(of.load(index)) if kept is None else kept


class _Outlines:
    """The polygons of frames: one each, or one for all frames of a set that have canvases of one size."""

    def __init__(self, request: TrimRequest) -> None:
        self._request = request
        self._lock = threading.Lock()
        self._set_of = {index: number for number, each in enumerate(request.outlined_together) for index in each}
        self._masks: dict[tuple[int, Size], NDArray[np.bool_]] = {}
        self._visible: dict[int, tuple[tuple[int, Size], int]] = {}

    def of(self, index: int, color: Pixels) -> Polygon | None:
        """Look at a frame; return its own polygon, if it has one of its own."""
        if not self._request.outline:
            return None
        mask = visibility(color) > self._request.visible_above / 255 * full_scale(color)
        if index not in self._set_of:
            return outlined(mask, self._request.outline)
        place = self._set_of[index], size_of(color)
        with self._lock:
            self._visible[index] = place, int(np.count_nonzero(mask))
            before = self._masks.get(place)
            self._masks[place] = mask if before is None else before | mask
        return None

    def shared(self, frames: Sequence[Trimmed]) -> list[Trimmed]:
        """Return the frames with the polygons that they have together, once all have been looked at."""
        around = {place: outlined(mask, self._request.outline) for place, mask in self._masks.items()}
        result = list(frames)
        for index, (place, visible) in self._visible.items():
            polygon = around[place]
            if polygon:
                own = polygon._replace(unseen=polygon.area - visible)
                result[index] = result[index]._replace(outline=own)
        return result


def trimmed(
    maps: Sequence[MapFrames], request: TrimRequest, kept: Kept, *, jobs: int, advance: Callable[[], None]
) -> list[Trimmed]:
    """Every frame looked at, in all its maps."""

    outlines = _Outlines(request)

    def measure(index: int) -> Trimmed:
        images = [one.load(index) for one in maps]
        indices = _telling_indices(maps[0], index)
        hidden = _second_choices(images[0], indices, maps[0].palette_of(index))
        found = _looked_at(maps, images, request, hidden)._replace(outline=outlines.of(index, images[0]))
        if found.box is not None and indices is not None:
            found = found._replace(key=(*found.key, pixel_digest(np.repeat(indices[..., None], 4, axis=2))))
        for one, image in zip(maps, images, strict=True):
            if found.box is not None:
                kept.put(one.name, index, _divided(found.box, one.parts).of(image))
        return found

    result = []
    for one in in_order(measure, range(len(maps[0].frames)), jobs=jobs):
        result.append(one)
        advance()
    return outlines.shared(result)


def _telling_indices(map: MapFrames, index: int) -> Indices | None:
    """Return the indices of a frame whose palette has a colour twice, which tell pixels of that colour apart."""
    palette, frame = map.palette_of(index), map.frames[index]
    if frame is None or palette is None or palette.indices is None or not palette.repeats:
        return None
    indices = palette.indices()
    return indices if indices.shape == (map.sizes[index].h, map.sizes[index].w) else None


def _second_choices(image: Pixels, indices: Indices | None, palette: StoredPalette | None) -> Box:
    """Return where pixels have another index than the first of their colour, which trimming would forget."""
    if indices is None or palette is None:
        return None
    first = ColourTable(palette.table).indices_of(image)
    return None if first is None else mask_bounds((first != indices) & (image[..., 3] == 0))


def _divided(box: Rect, parts: int) -> Rect:
    return Rect(*(value // parts for value in box))


def _looked_at(maps: Sequence[MapFrames], images: Sequence[Pixels], request: TrimRequest, also: Box) -> Trimmed:
    color = images[0]
    full = full_scale(color)
    alpha = None if is_opaque(color) else AlphaProfile.of(color)
    box = _box(maps, images, alpha, request, also)
    around = box or Rect(0, 0, 0, 0)
    grounds = {
        one.name: [] if one.motion else surroundings(image, _divided(around, one.parts))
        for one, image in zip(maps, images, strict=True)
    }
    if box is None:
        return Trimmed(None, (), {}, grounds, 0, None)
    parts = [_divided(box, one.parts).of(image) for one, image in zip(maps, images, strict=True)]
    counts = request.hidden_counts
    mirrored: dict[tuple[str, ...], Flip] = {}
    for flip in FLIPS if request.share_flips else ():
        mirrored[tuple(same_key(flipped(part, flip), hidden_counts=counts) for part in parts)] = flip
    key = tuple(same_key(part, hidden_counts=counts) for part in parts)
    tighter = alpha.bounds(_FAINT * full) if alpha else box
    return Trimmed(box, key, mirrored, grounds, tighter.w * tighter.h if tighter else 0, None)


def _box(
    maps: Sequence[MapFrames], images: Sequence[Pixels], alpha: AlphaProfile | None, request: TrimRequest, also: Box
) -> Box:
    """Return what of the canvas is packed, in pixels of the colour map."""
    size = size_of(images[0])
    boxes: list[Box] = [also]
    for one, image in list(zip(maps, images, strict=True))[: 1 if request.by_color else None]:
        if one.motion:
            continue  # vectors go on beyond what is visible, and need no room of their own
        threshold = request.visible_above / 255 * full_scale(image)
        if request.keep_hidden:
            box = drawn_box(image)
        elif one.name == COLOR:
            box = alpha.bounds(threshold) if alpha else Rect(0, 0, *size)
        else:
            box = content_box(image, one.content, threshold=threshold)
        boxes.append(box and Rect(*(value * one.parts for value in box)))
    box = union(boxes)
    if box is None or not request.trim:
        return box and Rect(0, 0, *size)
    left, top = (value // request.step * request.step for value in box[:2])
    right, bottom = (-(-value // request.step) * request.step for value in (box.right, box.bottom))
    return Rect(left, top, right - left, bottom - top)
