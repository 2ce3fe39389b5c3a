"""Atlases: which frames are the same, where each goes, and the manifest that puts all back."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from kivel.core.errors import option
from kivel.core.layout.page import LayoutError
from kivel.core.layout.paging import AtlasRequest, PackedPage, misfits, pack_pages
from kivel.core.layout.placement import Flip, Placement
from kivel.core.layout.spacing import Spacing
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Rect, Size, Value
from kivel.core.wording import first_few
from kivel.files.images import FrameSource
from kivel.files.manifest.model import FramePlace, Outline, Page
from kivel.files.safety import shown
from kivel.making.atlases.trimmed import Trimmed
from kivel.making.sheets.pages import check_page
from kivel.sequences.map_frames import MapFrames

__all__ = ["PackedFrames", "atlas_places", "packed_frames", "shared"]


class PackedFrames(NamedTuple):
    """Pages, where every frame lies, and which frames have pixels of their own there."""

    pages: list[PackedPage]
    placements: list[Placement]
    packed: list[int]


def packed_frames(
    frames: Sequence[FrameSource], looked_at: Sequence[Trimmed], request: AtlasRequest, maps: Sequence[MapFrames]
) -> PackedFrames:
    """Where every frame goes.

    Raises
    ------
    LayoutError
        If nothing to pack, frames are too large for any page, or a page for the limit of pixels.
    """
    sharing = shared(looked_at)
    packed = [index for index, (first, _) in enumerate(sharing) if first == index and looked_at[index].box]
    if not packed:
        raise LayoutError(f"all {len(frames)} frames are empty, nothing to pack")
    boxes = [box.size for index in packed if (box := looked_at[index].box)]
    misfit = misfits(boxes, request)
    if misfit:
        raise LayoutError(_too_large(frames, [(packed[number], boxes[number]) for number in misfit], request))
    pages = pack_pages(boxes, _folders([frames[index] for index in packed]), request)
    for page in pages:
        check_page(page.size, maps)
    return PackedFrames(pages, placements_of(looked_at, sharing, packed, pages), packed)


def _too_large(frames: Sequence[FrameSource], large: Sequence[tuple[int, Size]], request: AtlasRequest) -> str:
    first, box = large[0]
    listed = first_few([f"{frames[index].source} {size}" for index, size in large])
    every = f" ({len(large)} do not: {listed})" if len(large) > 1 else ""
    around = "" if request.spacing == Spacing() else " with gap and skirt"
    return (
        f"{shown(frames[first].path.with_name(frames[first].source))}: {box} px{around} does not fit a page limit of "
        f"{request.rule.limit} px; raise {option('page-limit')}, or use a smaller frame{every}"
    )


def _folders(frames: Sequence[FrameSource]) -> list[int]:
    """A number for each folder; images of several frames are their own."""
    times = Counter(frame.path for frame in frames)
    keys = [frame.path if times[frame.path] > 1 else frame.path.parent for frame in frames]
    numbers = {key: number for number, key in enumerate(dict.fromkeys(keys))}
    return [numbers[key] for key in keys]


def shared(frames: Sequence[Trimmed]) -> list[tuple[int, Flip | None]]:
    """For each frame the one whose pixels mean it, itself where nothing is the same, and how that is mirrored."""
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
    frames: Sequence[Trimmed],
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


def atlas_places(
    frames: Sequence[FrameSource],
    looked_at: Sequence[Trimmed],
    placements: Sequence[Placement],
    pages: Sequence[Page],
) -> tuple[FramePlace, ...]:
    """Return what the manifest says of the frames: every one on its full canvas again."""
    return tuple(
        FramePlace(
            name=frame.name,
            source=frame.source,
            page=placement.page,
            rect=placement.rect,
            turn=placement.turn,
            canvas=frame.size,
            offset=(placement.box.x, placement.box.y),
            pivot=frame.pivot,
            flip=placement.flip,
            ground=_own_grounds(seen, pages[placement.page]),
            outline=Outline(seen.outline.points, seen.outline.unseen) if seen.outline else None,
            extra=dict(frame.extra or {}),
        )
        for frame, seen, placement in zip(frames, looked_at, placements, strict=True)
    )


def _own_grounds(frame: Trimmed, page: Page) -> dict[str, Value] | None:
    """Return what surrounds a frame's pixels, by map, where it is not what the page has there anyway."""
    own = {}
    for name, values in frame.grounds.items():
        usual = page.maps[name].ground or (0, 0, 0, 0)
        if len(values) == 1 and tuple(values[0]) != tuple(usual):
            own[name] = values[0]
    return own or None
