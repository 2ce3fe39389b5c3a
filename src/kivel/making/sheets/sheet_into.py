"""Adding frames to a sheet that exists: into its free cells, moving nothing."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path

import numpy as np

from kivel.core.errors import UsageError, option
from kivel.core.layout.grid import Grid
from kivel.core.layout.page import LayoutError
from kivel.core.layout.placement import Placement
from kivel.core.layout.sheet_plan import Slot
from kivel.core.option_words import Align
from kivel.core.pixels.indexed import ColourTable, StoredPalette
from kivel.core.pixels.pixels import Pixels, Rect, is_opaque, widened
from kivel.core.wording import counted
from kivel.files.images import FrameSource
from kivel.files.manifest.model import Manifest, MapFile, Page
from kivel.files.manifest.names import COLOR
from kivel.files.manifest.parsing import edited_since_written, read_manifest
from kivel.files.manifest.text import manifest_text
from kivel.files.output_set import OutputSet
from kivel.files.page_store import PagesInPlace, stored_page
from kivel.files.safety import shown
from kivel.making.options.sheet_options import SheetOptions
from kivel.making.playback.manifests import require_pages_inside
from kivel.making.sheets.layouts import gathered, pivoted, stated_clips, step_of
from kivel.making.sheets.pages import PageLook, page_image, stored_map, whole_frame
from kivel.making.sheets.sheet_cells import SheetMade, cells_for, frame_place, placed_in_cell
from kivel.making.work import Work
from kivel.sequences.clips import ClipSet
from kivel.sequences.map_frames import MapFrames
from kivel.sequences.named_clips import beside, clips_of, own_name
from kivel.sequences.sequence import FrameSequence, common_alpha

__all__ = ["sheet_into"]


def sheet_into(options: SheetOptions, work: Work) -> SheetMade:
    """Add frames to a sheet; `first` of what is returned is the number of the first new one.

    Raises
    ------
    KivelError
        If there are too few free cells, or the frames do not fit what is there; nothing is written then.
    """
    path = Path(options.into or "")
    with options.output_set(work) as out:
        out.changes(path)
        edited = edited_since_written(path)
        manifest = read_manifest(path)
        require_pages_inside(manifest, path)
        grid = _grid_of(manifest, path)
        found = gathered(options, work, keep_float=False)
        _require_same_alpha(manifest, found.sequences, path)
        cells = cells_for(options, work, found, cell=grid.cell)
        cells = cells._replace(frames=pivoted(options, found.sequences, cells.frames))
        _require_same_maps(manifest, cells.maps, path)
        clips = stated_clips(options, work, clips_of(found.sequences, options.timing, options.clip_requests()))
        placements = _place_in_free_cells(cells.frames, manifest, grid, path, options.align, step=step_of(cells.maps))
        with work.progress("reading frames", len(cells.frames) * len(cells.maps)) as advance:
            pages = _rewritten(options, work, out, manifest, path, cells.maps, placements, advance=advance)
        result = _added_to(manifest, cells.frames, placements, pages, clips)
        out.add(path, [manifest_text(result, edited=edited).encode()])
    return SheetMade(tuple(out.written), result, len(manifest.frames), tuple(work.notes), {})


def _grid_of(manifest: Manifest, path: Path) -> Grid:
    if manifest.grid is None:
        raise LayoutError("has no grid of cells; make a new sheet instead", where=shown(path))
    return manifest.grid.cells()


def _require_same_alpha(manifest: Manifest, sequences: Sequence[FrameSequence], path: Path) -> None:
    multiplied = any(page.alpha == "premultiplied" for page in manifest.pages)
    if multiplied != common_alpha(sequences):
        kinds = ("premultiplied", "straight") if multiplied else ("straight", "premultiplied")
        raise UsageError(
            f"its colours are {kinds[0]}, those of the frames {kinds[1]}; convert one of them with kivel prep, by "
            "premultiply or unpremultiply",
            where=shown(path),
        )


def _free_slots(manifest: Manifest, grid: Grid) -> list[Slot]:
    """The cells, page by page in their order, that no frame reaches into."""
    slots = []
    for number in range(len(manifest.pages)):
        taken = [Rect(*frame.rect) for frame in manifest.frames if frame.page == number]
        slots += [
            Slot(number, index)
            for index, cell in enumerate(grid.cells())
            if not any(_overlap(cell, rect) for rect in taken)
        ]
    return slots


def _overlap(one: Rect, other: Rect) -> bool:
    return one.x < other.right and other.x < one.right and one.y < other.bottom and other.y < one.bottom


def _place_in_free_cells(
    frames: Sequence[FrameSource], manifest: Manifest, grid: Grid, path: Path, align: Align, *, step: int
) -> list[Placement]:
    """A free cell for each frame; raises `LayoutError` if there are too few, or a frame is larger than a cell."""
    slots = _free_slots(manifest, grid)
    if len(slots) < len(frames):
        need = "needs" if len(frames) == 1 else "need"
        missing = "1 is" if len(frames) == len(slots) + 1 else f"{len(frames) - len(slots)} are"
        have = {0: "none is free", 1: "1 is free"}.get(len(slots), f"{len(slots)} are free")
        cells = len(manifest.pages) * grid.capacity
        raise LayoutError(
            f"{counted(len(frames), 'frame')} {need} {counted(len(frames), 'cell')}, {have} of {cells}: "
            f"{missing} missing; make a new sheet of both",
            where=shown(path),
        )
    return [
        placed_in_cell(frame, slot.page, grid.cell_rect(slot.cell), align, step)
        for frame, slot in zip(frames, slots[: len(frames)], strict=True)
    ]


def _require_same_maps(manifest: Manifest, maps: Sequence[MapFrames], path: Path) -> None:
    """Raise `LayoutError` unless the frames come with the very maps that the sheet has, at the same scales."""
    names = {one.name: one for one in maps}
    for number, page in enumerate(manifest.pages):
        where = f"{shown(path)}: pages[{number}]"
        if set(page.maps) != set(names):
            missing = sorted(set(page.maps) - set(names))
            surplus = sorted(set(names) - set(page.maps))
            what = f"it has maps {', '.join(page.maps)}, the frames come with {', '.join(names)}"
            neutral = option("missing-map", "neutral")
            todo = [f"pass {option('map', f'{name}=SRC')} (and {neutral} if there is none)" for name in missing]
            raise LayoutError("; ".join([what, *todo, *(f"remove {name}" for name in surplus)]), where=where)
        for name, file in page.maps.items():
            if file.parts != names[name].parts:
                todo_scale = option("map-scale", f"{name}=1/{file.parts}")
                raise LayoutError(f'map "{name}" is at 1/{file.parts}; pass {todo_scale}', where=where)


def _old_page(
    options: SheetOptions, work: Work, manifest: Manifest, path: Path, number: int, map: MapFrames
) -> tuple[Pixels, StoredPalette | None]:
    """A page as it is, to be changed, and its palette; raises `LayoutError` if it is shallower than the frames."""
    stored = stored_page(manifest, path, number, map.name, max_pixels=options.pixel_limit, tell=work.note)
    if stored.info.depth < map.depth:
        raise LayoutError(
            f"it has {stored.info.depth} bits a channel, the frames have {map.depth}; make a new sheet of both",
            where=shown(stored.info.path),
        )
    return np.array(widened(stored.pixels(), stored.info.depth)), stored.info.palette


def _rewritten(
    options: SheetOptions,
    work: Work,
    out: OutputSet,
    manifest: Manifest,
    path: Path,
    maps: Sequence[MapFrames],
    placements: Sequence[Placement],
    *,
    advance: Callable[[], None],
) -> dict[int, Page]:
    """The pages that change, written again; what is on them stays."""
    grid = manifest.grid
    look = PageLook(skirt=grid.skirt if grid else 0, wrap=options.skirt_wrap or bool(grid and grid.wrap))
    watched = work.watching("writing the sheet")
    store = PagesInPlace(
        out, manifest, path, compress=options.compress, jobs=options.threads, watched=watched, indexed=options.indexed
    )
    pages: dict[int, Page] = {}
    for number in sorted({placement.page for placement in placements}):
        on_page = [(index, place) for index, place in enumerate(placements) if place.page == number]
        page = manifest.pages[number]
        files: dict[str, MapFile] = {}
        for one in maps:
            image, palette = _old_page(options, work, manifest, path, number, one)
            page_image(one, on_page, image, look, whole_frame, jobs=options.threads, advance=advance)
            if palette and options.indexed == "keep" and ColourTable(palette.table).indices_of(image) is None:
                work.note(f"{page.maps[one.name].file}: its palette is not kept: the new frames have other colours")
            files[one.name] = store.put(
                number, stored_map(one)._replace(palette=palette), image, page.maps[one.name].ground
            )
            # a page that was full may not be any more
            if one.name == COLOR and page.alpha == "opaque" and not is_opaque(image):
                page = replace(page, alpha="straight")
        pages[number] = replace(
            page, maps={name: replace(old, digest=files[name].digest) for name, old in page.maps.items()}
        )
    return pages


def _added_to(
    manifest: Manifest,
    frames: Sequence[FrameSource],
    placements: Sequence[Placement],
    pages: dict[int, Page],
    clips: ClipSet,
) -> Manifest:
    """The manifest with the frames and clips behind those that are there, and the pages that changed.

    New frames and clips whose names are taken get a number. No single command makes all of it any more.
    """
    before = len(manifest.frames)
    taken = {frame.name for frame in manifest.frames}
    places = []
    for frame, place in zip(frames, placements, strict=True):
        name = own_name(frame.name, taken)
        taken.add(name)
        places.append(frame_place(frame._replace(name=name), place))
    later = tuple(clip.renumbered({number: number + before for number in range(len(frames))}) for clip in clips.clips)
    new = beside(clips._replace(clips=later), manifest.clips, manifest.groups)
    return replace(
        manifest,
        pages=tuple(pages.get(number, page) for number, page in enumerate(manifest.pages)),
        frames=manifest.frames + tuple(places),
        clips=manifest.clips + new.clips,
        groups=manifest.groups + new.groups,
        made=None,
    )
