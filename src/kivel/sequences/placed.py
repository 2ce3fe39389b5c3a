"""The frames that a manifest places on its pages."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np

from kivel.core.contents import CONTENTS
from kivel.core.errors import located
from kivel.core.layout.placement import taken_from_page
from kivel.core.motion.motion_codes import MotionReach
from kivel.core.motion.pairs import MotionPairs
from kivel.core.pixels.pixels import Pixels, Rect, Size, Value, full_scale
from kivel.core.room import require_room
from kivel.files.images import FrameSource, ImageError
from kivel.files.manifest.model import FramePlace, Manifest
from kivel.files.manifest.names import COLOR, SUFFIX
from kivel.files.page_store import StoredPage, stored_page
from kivel.files.safety import shown
from kivel.sequences.map_frames import MapFrames
from kivel.sequences.sequence import CutSheet, FrameSequence
from kivel.sequences.settings import SourceSettings

__all__ = ["motion_of_manifest", "sequence_of_manifest", "stated_motion"]


def sequence_of_manifest(manifest: Manifest, path: Path, settings: SourceSettings) -> FrameSequence:
    """The frames that a manifest places, each on its full canvas, with all that it says of them.

    Raises
    ------
    ImageError
        If it has no frames or no such map, a page is not of the stated size, or a canvas is larger than the limit.
    OutputError, PngError
        If a page cannot be read.
    """
    where = shown(path)
    if settings.or_color and not all(settings.show in page.maps for page in manifest.pages):
        settings = settings._replace(show=COLOR)
    if not manifest.frames:
        raise ImageError("the manifest has no frames", where=where)
    for number, frame in enumerate(manifest.frames):
        with located(where):
            require_room(*frame.canvas, what=f"frames[{number}].canvas:", limit=settings.max_pixels)
    multiplied = any(page.alpha == "premultiplied" for page in manifest.pages)
    return FrameSequence(
        stem=path.name.removesuffix(SUFFIX),
        frames=_frames_of(manifest, path, settings.show, settings),
        maps=_companions(manifest, path, settings),
        clips=tuple(replace(clip, set=None) for clip in manifest.clips),
        groups=manifest.groups,
        premultiplied=multiplied and settings.show == COLOR,
        content=manifest.pages[0].maps[settings.show].kind,
        notes=(f"{where}: its colours are premultiplied",) if multiplied and settings.show == COLOR else (),
        described_by=manifest,
        extra=manifest.extra,
        faded=manifest.faded or (),
        manifests=(path,),
        sheet=_sheet_of(manifest, path),
    )


def _sheet_of(manifest: Manifest, path: Path) -> CutSheet | None:
    cuts = tuple(frame.cut for frame in manifest.frames if frame.cut)
    if manifest.sliced_from is None:
        return None
    return CutSheet(manifest.sliced_from, path.parent, cuts if len(cuts) == len(manifest.frames) else ())


def _frames_of(manifest: Manifest, path: Path, map: str, settings: SourceSettings) -> tuple[FrameSource, ...]:
    pages = {
        number: stored_page(manifest, path, number, map, max_pixels=settings.max_pixels, tell=settings.tell)
        for number in sorted({place.page for place in manifest.frames})
    }
    spread = stated_motion(manifest, map) is not None
    return tuple(_placed_frame(place, pages[place.page], map, spread=spread) for place in manifest.frames)


def _companions(manifest: Manifest, path: Path, settings: SourceSettings) -> tuple[MapFrames, ...]:
    """The other maps that all pages have, as far as they are wanted."""
    names = [name for name in manifest.pages[0].maps if all(name in page.maps for page in manifest.pages)]
    if not settings.with_maps:
        names = [name for name in names if settings.with_motion and stated_motion(manifest, name)]
    found = []
    for name in names:
        if name == settings.show:
            continue
        frames = _frames_of(manifest, path, name, settings)
        file = manifest.pages[0].maps[name]
        depth = max(frame.depth for frame in frames)
        sizes = tuple(frame.size for frame in frames)
        motion = stated_motion(manifest, name)
        found.append(MapFrames(name, CONTENTS[file.kind], frames, sizes, depth, file.parts, motion=motion))
    return tuple(found)


def motion_of_manifest(manifest: Manifest) -> MotionPairs | None:
    """Return what the vectors of its motion map mean, if it has one whose vectors are known."""
    stated = (stated_motion(manifest, name) for name in (manifest.pages[0].maps if manifest.pages else ()))
    return next((motion for motion in stated if motion), None)


def stated_motion(manifest: Manifest, name: str) -> MotionPairs | None:
    """Return what the vectors of a map mean, if all its pages say that, and alike."""
    known = [page.maps[name].motion for page in manifest.pages]
    first = known[0]
    if first is None or any(one is None or (one.reach, one.wrap) != (first.reach, first.wrap) for one in known):
        return None
    later: list[int | None] = [None] * len(manifest.frames)
    ratios: list[float | None] = [None] * len(manifest.frames)
    for one in known:
        for place, (start, end) in enumerate(one.pairs if one else ()):
            later[start] = end
            ratios[start] = one.ratios[place] if one and one.ratios else None
    is_known = any(ratio is not None for ratio in ratios)
    return MotionPairs(MotionReach(*first.reach), tuple(later), bool(first.wrap), tuple(ratios) if is_known else ())


def _placed_frame(place: FramePlace, page: StoredPage, map: str, *, spread: bool = False) -> FrameSource:
    """One frame on its canvas; outside the trimmed rectangle is the ground, or the colour goes on from the border."""
    parts, info = page.parts, page.info
    canvas = Size(place.canvas[0] // parts, place.canvas[1] // parts)
    ground = (place.ground or {}).get(map, page.ground)

    def placed(image: Pixels, ground: Value) -> Pixels:
        rect = Rect(*(value // parts for value in place.rect))
        # nothing was trimmed: a view of the page, nothing is copied
        if rect.size == canvas and place.turn == 0 and place.flip is None:
            return rect.of(image)
        require_room(*canvas, bits=info.depth)
        if spread and rect.w and rect.h:
            part = taken_from_page(image, rect, place.turn, place.flip)
            x, y = (value // parts for value in place.offset)
            around = ((y, canvas.h - y - part.shape[0]), (x, canvas.w - x - part.shape[1]), (0, 0))
            return np.pad(part, around, mode="edge")
        whole = np.empty((canvas.h, canvas.w, 4), image.dtype)
        whole[...] = np.clip(ground, 0, full_scale(image)).astype(image.dtype)
        part = taken_from_page(image, rect, place.turn, place.flip)
        x, y = (value // parts for value in place.offset)
        Rect(x, y, part.shape[1], part.shape[0]).of(whole)[:] = part
        return whole

    palette = page.palette and page.palette.moved(lambda image: placed(image, (0, 0, 0, 0)))
    return FrameSource(
        name=place.name,
        source=place.source,
        path=info.path,
        size=canvas,
        depth=info.depth,
        mode=info.mode,
        load=lambda: placed(page.pixels(), ground or (0, 0, 0, 0)),
        pivot=place.pivot,
        outline=tuple((float(x), float(y)) for x, y in place.outline.points) if place.outline else None,
        palette=palette,
        extra=place.extra or None,
    )
