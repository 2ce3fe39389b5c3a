"""Pages: putting the pixels of frames where a layout wants them, map by map."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from functools import partial
from itertools import zip_longest
from typing import TYPE_CHECKING

from kivel.core.contents import empty
from kivel.core.layout.placement import Placement, put_on_page, skirted
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Pixels, Size, Value, full_scale, is_opaque
from kivel.core.room import require_room
from kivel.core.slicing.background import KeyColour
from kivel.files.manifest.model import MapFile, MapMotion, Page, PageAlpha
from kivel.files.manifest.names import COLOR
from kivel.files.page_store import PageStore, StoredMap
from kivel.files.threads import in_order
from kivel.making.sheets.page_palettes import PagePalette
from kivel.sequences.map_frames import MapFrames

if TYPE_CHECKING:
    from kivel.core.motion.pairs import MotionPairs

__all__ = ["PageGround", "PageLook", "check_page", "page_image", "put_pages", "stored_map", "whole_frame"]

LoadPart = Callable[[MapFrames, int, Placement], Pixels]
"""The pixels of a placement's box in one map's frame; the box in pixels of that map."""


class PageGround(NamedTuple):
    """Holds what lies under the frames of the colour: `pages` as they are before, if there are such, and the colour
    that is background. Where boxes `overlap`, only what is visible of each frame is put there.
    """

    pages: tuple[Pixels, ...] = ()
    key: KeyColour | None = None
    overlap: bool = False


class PageLook(NamedTuple):
    """How pages are drawn; `palettes` are those of the maps, where they are kept."""

    skirt: int = 0
    wrap: bool = False
    premultiplied: bool = False
    ground: PageGround = PageGround()
    palettes: tuple[PagePalette | None, ...] = ()


def check_page(size: Size, maps: Sequence[MapFrames]) -> None:
    """Raise `RoomError` if a page would be larger than the limit, before anything is read."""
    bits = max(one.depth for one in maps)
    require_room(
        *size, bits=bits, what="the page would have", todo="use fewer or smaller frames or, if that is intended"
    )


def whole_frame(of: MapFrames, index: int, placement: Placement) -> Pixels:
    """Decoded for each map when it is placed."""
    return placement.box.of(of.load(index))


def stored_map(map: MapFrames, frames: Iterable[int] = ()) -> StoredMap:
    """Return what a store has to know of a map, and of those of its frames that lie on one page."""
    return StoredMap(map.name, map.content, map.parts, map.motion and _map_motion(map.motion, frames))


def _map_motion(motion: MotionPairs, frames: Iterable[int]) -> MapMotion:
    reach = (_plain_number(motion.reach.x), _plain_number(motion.reach.y))
    pairs = tuple((frame, later) for frame in sorted(frames) if (later := motion.later[frame]) is not None)
    ratios = tuple(motion.ratio(frame) for frame, _ in pairs)
    is_known = any(ratio is not None for ratio in ratios)
    return MapMotion(reach, pairs, ratios=ratios if is_known else None, wrap=motion.wraps or None)


def _plain_number(value: float) -> int | float:
    return int(value) if value == int(value) else value


def page_image(
    map: MapFrames,
    on_page: Iterable[tuple[int, Placement]],
    page: Pixels,
    look: PageLook,
    load: LoadPart,
    *,
    jobs: int,
    advance: Callable[[], None],
) -> bool:
    """Put frames on a page, (H, W, 4), each read, put in its place and let go, on `jobs` threads.

    Says whether they are the frames of a companion map and all opaque: then so is the ground of a new page.
    """

    def put(item: tuple[int, Placement]) -> bool:
        index, placement = item
        placement = placement.divided(map.parts)
        part = load(map, index, placement)
        if look.ground.overlap:
            placement.rect.of(page)[part[..., 3] > 0] = part[part[..., 3] > 0]
        else:
            put_on_page(page, part, placement)
        skirted(page, placement.rect, look.skirt // map.parts, wrap=look.wrap)
        advance()
        return map.name != COLOR and is_opaque(part)

    opaque = list(in_order(put, on_page, jobs=jobs))
    return bool(opaque) and all(opaque)


def _paint_indices(
    on_page: Iterable[tuple[int, Placement]], look: PageLook, load: LoadPart, jobs: int, map: MapFrames, page: Pixels
) -> None:
    """Put indices of a palette where the colours were put; where only visible ones were, colours tell them."""
    if not look.ground.overlap:
        page_image(map, on_page, page, look, load, jobs=jobs, advance=lambda: None)


def _grounded(map: MapFrames, page: Pixels, palette: PagePalette | None, *, opaque: bool) -> Value | None:
    """Make the ground of a new page opaque, or leave it; its value, None for transparent black."""
    if palette and map.name == COLOR:
        return palette.empty if any(palette.empty) else None
    if opaque:
        page[..., 3] = full_scale(page)
    ground = map.content.ground(page.dtype, opaque=opaque)
    return ground if any(ground) else None


def _keyed(page: Pixels, key: KeyColour | None) -> None:
    """Give what is transparent the background colour."""
    if key is not None:
        page[page[..., 3] == 0] = (*key, full_scale(page))


def put_pages(
    store: PageStore,
    sizes: Sequence[Size],
    maps: Sequence[MapFrames],
    placements: Sequence[Placement],
    look: PageLook,
    *,
    load: LoadPart,
    jobs: int,
    advance: Callable[[], None],
) -> tuple[Page, ...]:
    """Every page in every map, one after the other, and what the manifest says of them."""
    pages = []
    for number, size in enumerate(sizes):
        on_page = [
            (index, placement)
            for index, placement in enumerate(placements)
            if placement.page == number and not placement.shared and placement.rect.w
        ]
        files: dict[str, MapFile] = {}
        alpha: PageAlpha = "straight"
        for one, palette in zip_longest(maps, look.palettes):
            before = look.ground.pages[number : number + 1] if one.name == COLOR else ()
            shape = (size.h // one.parts, size.w // one.parts)
            image = before[0] if before else empty(one.content, shape, one.dtype, opaque=False)
            if palette and one.name == COLOR and not before:
                image[:] = palette.empty
            opaque = page_image(one, on_page, image, look, load, jobs=jobs, advance=advance)
            ground = _grounded(one, image, palette, opaque=opaque)
            if one.name == COLOR:
                alpha = "opaque" if is_opaque(image) else "premultiplied" if look.premultiplied else "straight"
                _keyed(image, look.ground.key)
            here = (index for index, placement in enumerate(placements) if placement.page == number)
            stored = stored_map(one, here)
            if palette:
                paint = partial(_paint_indices, on_page, look, load, jobs)
                key = look.ground.key if one.name == COLOR else None
                stored = stored._replace(palette=palette.on_page(image, ground or (0, 0, 0, 0), key, paint))
            file = store.put(number, stored, image, ground)
            files[one.name] = replace(file, key=look.ground.key if one.name == COLOR else None)
        pages.append(Page(size, files, alpha))
    return tuple(pages)
