"""Pages: putting the pixels of frames where a layout wants them, map by map, and writing the image files."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from fractions import Fraction
from pathlib import Path
from typing import NamedTuple

import numpy as np

from kivel.core.contents import empty
from kivel.core.digest import pixel_digest
from kivel.core.layout.page import LayoutError
from kivel.core.layout.placement import Placement, put_on_page, skirted
from kivel.core.pixels import Pixels, Size, Value, full_scale, is_opaque
from kivel.files.manifest.model import MapFile, Page, PageAlpha
from kivel.files.manifest.names import COLOR
from kivel.files.png.write import BAND_BYTES, Compress, encode_png
from kivel.files.safety import OutputSet, shown
from kivel.files.threads import in_order
from kivel.sequences.pairing import MapFrames

__all__ = [
    "PageLook",
    "check_page",
    "older_pages",
    "page_file",
    "page_image",
    "whole_frame",
    "write_page",
    "write_pages",
]

Load = Callable[[MapFrames, int, Placement], Pixels]
"""The pixels of a placement's box in one map's frame; the box in pixels of that map."""


class PageLook(NamedTuple):
    """How pages are drawn and stored."""

    skirt: int = 0
    wrap: bool = False
    compress: Compress = "fast"
    premultiplied: bool = False


def check_page(size: Size, max_pixels: int) -> None:
    """Raise `LayoutError` if a page would have more pixels than the limit, before anything is allocated."""
    if size.w * size.h > max_pixels:
        raise LayoutError(
            f"the sheet would have {size} px, more than the limit of {max_pixels:,} pixels; "
            "use fewer or smaller frames, or pass --max-pixels"
        )


def whole_frame(of: MapFrames, index: int, placement: Placement) -> Pixels:
    """Decoded for each map when it is placed."""
    return placement.box.of(of.load(index))


def page_file(target: Path, number: int, count: int, map: MapFrames) -> Path:
    """`moth.png`; `moth-1.png` of several pages; `moth.normal.png` for a companion map. Float maps are OpenEXR."""
    page = f"-{number}" if count > 1 else ""
    companion = "" if map.name == COLOR else f".{map.name}"
    return target.with_name(f"{target.stem}{page}{companion}{'.exr' if map.depth == 32 else '.png'}")


def older_pages(target: Path, files: Sequence[Path]) -> list[str]:
    """Pages of an earlier run, with more pages, that this one does not write again."""
    older = []
    number = 0
    while (path := target.with_name(f"{target.stem}-{number}{target.suffix}")).exists():
        older += [] if path in files else [path]
        number += 1
    return [f"{shown(older[0])}: {len(older)} older pages stay, from this one on; remove them"] if older else []


def page_image(
    map: MapFrames,
    on_page: Iterable[tuple[int, Placement]],
    page: Pixels,
    look: PageLook,
    load: Load,
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
        put_on_page(page, part, placement)
        skirted(page, placement.rect, look.skirt // map.parts, wrap=look.wrap)
        advance()
        return map.name != COLOR and is_opaque(part)

    opaque = list(in_order(put, on_page, jobs=jobs))
    return bool(opaque) and all(opaque)


def _grounded(map: MapFrames, page: Pixels, *, opaque: bool) -> Value | None:
    """Make the ground of a new page opaque, or leave it; its value, None for transparent black."""
    if opaque:
        page[..., 3] = full_scale(page)
    ground = map.content.ground(page.dtype, opaque=opaque)
    return ground if any(ground) else None


def write_pages(
    out: OutputSet,
    target: Path,
    sizes: Sequence[Size],
    maps: Sequence[MapFrames],
    placements: Sequence[Placement],
    look: PageLook,
    *,
    load: Load,
    watched: Callable[[Iterator[bytes], int], Iterator[bytes]],
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
        for one in maps:
            image = empty(one.content, (size.h // one.parts, size.w // one.parts), one.dtype, opaque=False)
            opaque = page_image(one, on_page, image, look, load, jobs=jobs, advance=advance)
            ground = _grounded(one, image, opaque=opaque)
            if one.name == COLOR:
                alpha = "opaque" if is_opaque(image) else "premultiplied" if look.premultiplied else "straight"
            path = page_file(target, number, len(sizes), one)
            files[one.name] = write_page(out, path, image, one, ground, look.compress, watched=watched, jobs=jobs)
        pages.append(Page(size, files, alpha))
    return tuple(pages)


def write_page(
    out: OutputSet,
    path: Path,
    image: Pixels,
    map: MapFrames,
    ground: Value | None,
    compress: Compress,
    *,
    watched: Callable[[Iterator[bytes], int], Iterator[bytes]],
    jobs: int,
) -> MapFile:
    """One page's file, and what the manifest says of it."""
    if image.dtype == np.float32:
        from kivel.files.exr import encode_exr, stored_and_back

        out.add(path, [encode_exr(image)])
        image = stored_and_back(image)
    else:
        pieces = encode_png(image, compress=compress, jobs=jobs)
        out.add(path, watched(pieces, image.nbytes // BAND_BYTES + 1))
    return MapFile(path.name, pixel_digest(image), Fraction(1, map.parts) if map.parts > 1 else None, ground)
