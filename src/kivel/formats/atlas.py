"""Atlases: what of each frame is worth packing, which frames are the same, and the manifest that puts all back."""

from __future__ import annotations

import threading
from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from typing import NamedTuple

import numpy as np

from kivel.core.layout.atlas import AtlasRequest, PackedPage, misfits, pack_pages
from kivel.core.layout.page import LayoutError
from kivel.core.layout.placement import FLIPS, Flip, Placement, flipped
from kivel.core.layout.spacing import Spacing
from kivel.core.outline import Polygon, outlined
from kivel.core.pixels import Box, Pixels, Rect, Size, Value, full_scale, is_opaque, opaque_bounds, size_of
from kivel.core.playback.clip import Clip
from kivel.core.survey import union
from kivel.core.trimming import content_box, drawn_box, same_key, surroundings
from kivel.formats.companions import MapFrames
from kivel.formats.files import shown
from kivel.formats.frames import first_few
from kivel.formats.images import FrameSource
from kivel.formats.manifest.model import FramePlace, Group, Manifest, Outline, Page
from kivel.formats.manifest.names import COLOR
from kivel.formats.pages import check_page
from kivel.formats.threads import in_order

__all__ = ["Kept", "Measured", "PackedFrames", "TrimRequest", "atlas_manifest", "measured", "packed_frames", "shared"]

_KEPT_BYTES = 96 << 20
"""So much of what was decoded to be measured is kept until it is placed; the rest is decoded again."""


class TrimRequest(NamedTuple):
    """How frames are trimmed: what counts as visible (alpha of 0 to 255), and by which maps.

    `step` is what boxes must divide by. `keep_hidden` keeps all colour under alpha 0, `hidden_counts` tells frames
    apart by it. `outline` is how many points a polygon may have, 0 for none.
    """

    visible_above: int = 0
    trim: bool = True
    by_color: bool = False
    keep_hidden: bool = False
    hidden_counts: bool = True
    share_flips: bool = False
    step: int = 1
    outline: int = 0


class Measured(NamedTuple):
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


def measured(
    maps: Sequence[MapFrames], request: TrimRequest, kept: Kept, *, jobs: int, advance: Callable[[], None]
) -> list[Measured]:
    """Every frame looked at, in all its maps."""

    def measure(index: int) -> Measured:
        images = {one.name: one.load(index) for one in maps}
        box = _box(maps, images, request)
        found = _measured(maps, images, box, request)
        for one in maps:
            if box is not None:
                kept.put(one.name, index, _divided(box, one.parts).of(images[one.name]))
        return found

    result = []
    for one in in_order(measure, range(len(maps[0].frames)), jobs=jobs):
        result.append(one)
        advance()
    return result


def _divided(box: Rect, parts: int) -> Rect:
    return Rect(*(value // parts for value in box))


def _box(maps: Sequence[MapFrames], images: dict[str, Pixels], request: TrimRequest) -> Box:
    """What of the canvas is packed, in pixels of the colour map."""
    color = images[COLOR]
    size = size_of(color)
    boxes: list[Box] = []
    for one in maps[:1] if request.by_color else maps:
        image = images[one.name]
        threshold = request.visible_above / 255 * full_scale(image)
        if request.keep_hidden:
            box = drawn_box(image)
        elif one.name == COLOR and is_opaque(image):
            box = Rect(0, 0, *size)
        else:
            box = content_box(image, one.content, threshold=threshold)
        boxes.append(box and Rect(*(value * one.parts for value in box)))
    box = union(boxes)
    if box is None:
        return None
    if not request.trim:
        return Rect(0, 0, *size)
    left, top = (value // request.step * request.step for value in box[:2])
    right, bottom = (-(-value // request.step) * request.step for value in (box.right, box.bottom))
    return Rect(left, top, right - left, bottom - top)


def _measured(maps: Sequence[MapFrames], images: dict[str, Pixels], box: Box, request: TrimRequest) -> Measured:
    color = images[COLOR]
    around = box or Rect(0, 0, 0, 0)
    grounds = {one.name: surroundings(images[one.name], _divided(around, one.parts)) for one in maps}
    outline = None
    if request.outline:
        outline = outlined(color[..., 3] > request.visible_above / 255 * full_scale(color), request.outline)
    if box is None:
        return Measured(None, (), {}, grounds, 0, outline)
    parts = [_divided(box, one.parts).of(images[one.name]) for one in maps]
    counts = request.hidden_counts
    mirrored: dict[tuple[str, ...], Flip] = {}
    if request.share_flips:
        for flip in FLIPS:
            mirrored[tuple(same_key(flipped(part, flip), hidden_counts=counts) for part in parts)] = flip
    key = tuple(same_key(part, hidden_counts=counts) for part in parts)
    return Measured(box, key, mirrored, grounds, _tighter(parts[0], box), outline)


def _tighter(part: Pixels, box: Rect) -> int:
    if is_opaque(part):
        return box.w * box.h
    faint = opaque_bounds(part, threshold=8 / 255 * full_scale(part))
    return faint.w * faint.h if faint else 0


class PackedFrames(NamedTuple):
    """Pages, where every frame lies, and which frames have pixels of their own there."""

    pages: list[PackedPage]
    placements: list[Placement]
    packed: list[int]


def packed_frames(
    frames: Sequence[FrameSource], looked_at: Sequence[Measured], request: AtlasRequest, *, max_pixels: int
) -> PackedFrames:
    """Where every frame goes.

    Raises
    ------
    LayoutError
        If there is nothing to pack, frames are too large for any page, or a page for the limit of pixels.
    """
    sharing = shared(looked_at)
    packed = [index for index, (first, _) in enumerate(sharing) if first == index and looked_at[index].box]
    if not packed:
        raise LayoutError(f"none of the {len(frames)} frames shows anything, there is nothing to pack")
    boxes = [box.size for index in packed if (box := looked_at[index].box)]
    misfit = misfits(boxes, request)
    if misfit:
        raise LayoutError(_too_large(frames, [(packed[number], boxes[number]) for number in misfit], request))
    pages = pack_pages(boxes, _folders([frames[index] for index in packed]), request)
    for page in pages:
        check_page(page.size, max_pixels)
    return PackedFrames(pages, placements_of(looked_at, sharing, packed, pages), packed)


def _too_large(frames: Sequence[FrameSource], large: Sequence[tuple[int, Size]], request: AtlasRequest) -> str:
    first, box = large[0]
    listed = first_few([f"{frames[index].source} {size}" for index, size in large])
    every = f" ({len(large)} do not: {listed})" if len(large) > 1 else ""
    around = "" if request.spacing == Spacing() else " with what lies around it"
    return (
        f"{shown(frames[first].path.with_name(frames[first].source))}: {box} px{around} does not fit a page limit of "
        f"{request.rule.limit} px; raise --page-limit, or make it smaller{every}"
    )


def _folders(frames: Sequence[FrameSource]) -> list[int]:
    """A number for each folder; images of several frames are their own."""
    times = Counter(frame.path for frame in frames)
    keys = [frame.path if times[frame.path] > 1 else frame.path.parent for frame in frames]
    numbers = {key: number for number, key in enumerate(dict.fromkeys(keys))}
    return [numbers[key] for key in keys]


def shared(frames: Sequence[Measured]) -> list[tuple[int, Flip | None]]:
    """For each frame the one whose pixels stand for it, itself where nothing is the same, and how that is mirrored."""
    first: dict[tuple[str, ...], int] = {}
    result: list[tuple[int, Flip | None]] = []
    for index, frame in enumerate(frames):
        if frame.box is None:
            result.append((index, None))
            continue
        mirror = next((key for key in frame.mirrored if key in first), None)
        if frame.key in first:
            result.append((first[frame.key], None))
        elif mirror is not None:
            result.append((first[mirror], frame.mirrored[mirror]))
        else:
            first[frame.key] = index
            result.append((index, None))
    return result


def placements_of(
    frames: Sequence[Measured],
    sharing: Sequence[tuple[int, Flip | None]],
    packed: Sequence[int],
    pages: Sequence[PackedPage],
) -> list[Placement]:
    """Where each frame lies; `packed` are the frames whose boxes the pages hold, in the order they were packed."""
    of_first = {
        packed[place.box]: (number, place.rect, place.turned)
        for number, page in enumerate(pages)
        for place in page.places
    }
    nothing = Rect(0, 0, 0, 0)
    result = []
    for index, (frame, (first, flip)) in enumerate(zip(frames, sharing, strict=True)):
        if frame.box is None:
            result.append(Placement(0, nothing, nothing, shared=True))
            continue
        page, rect, turned = of_first[first]
        result.append(Placement(page, rect, frame.box, 90 if turned else 0, flip, first != index))
    return result


def atlas_manifest(
    frames: Sequence[FrameSource],
    looked_at: Sequence[Measured],
    placements: Sequence[Placement],
    pages: tuple[Page, ...],
    *,
    clips: tuple[Clip, ...],
    groups: tuple[Group, ...],
) -> Manifest:
    """The manifest of an atlas: every frame on its full canvas again."""
    places = tuple(
        FramePlace(
            frame.name,
            frame.source,
            placement.page,
            placement.rect,
            placement.turn,
            frame.size,
            (placement.box.x, placement.box.y),
            frame.pivot,
            placement.flip,
            _own_grounds(seen, pages[placement.page]),
            Outline(seen.outline.points, seen.outline.wasted) if seen.outline else None,
        )
        for frame, seen, placement in zip(frames, looked_at, placements, strict=True)
    )
    return Manifest(pages, places, clips, groups=groups)


def _own_grounds(frame: Measured, page: Page) -> dict[str, Value] | None:
    """What surrounds a frame's pixels, by map, where it is not what the page has there anyway."""
    own = {}
    for name, values in frame.grounds.items():
        usual = page.maps[name].ground or (0, 0, 0, 0)
        if len(values) == 1 and tuple(values[0]) != tuple(usual):
            own[name] = values[0]
    return own or None
