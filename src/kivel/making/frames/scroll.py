"""Loops from tiles that are scrolled and displaced."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from kivel.core.errors import UsageError, located
from kivel.core.looping.seam import judge_seam, tile_seam
from kivel.core.looping.signature import planes_of
from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.clip import clip_of_frames
from kivel.core.prepare.actions import Frame
from kivel.core.prepare.displace import detailed
from kivel.core.prepare.parameters import NamedImage
from kivel.core.prepare.written import parse_source
from kivel.core.scrolling import TILE, Tile, scrolling
from kivel.files.images import open_image
from kivel.making.frames.frame_files import NewFrame, NewFrames, signed, write_frames
from kivel.making.frames.prepared_frames import single_image
from kivel.making.options.scroll_options import ScrollOptions
from kivel.making.sheets.pages import stored_map
from kivel.sequences.clips import ClipSet
from kivel.sequences.pairing import companion_maps, maps_left
from kivel.sequences.sequence import FrameSequence

if TYPE_CHECKING:
    from fractions import Fraction
    from pathlib import Path

    from kivel.core.looping.seam import Seam
    from kivel.core.pixels.pixels import Pixels
    from kivel.core.prepare.actions import Frame
    from kivel.core.scrolling import Tile
    from kivel.files.manifest.model import Manifest
    from kivel.files.output_set import Written
    from kivel.files.page_store import StoredMap
    from kivel.making.work import Work

__all__ = ["ScrollMade", "make_scroll"]


class ScrollMade(NamedTuple):
    """A scrolling loop: files with what became of each, the manifest, whether it closes bit for bit, and its seam.

    `images` are by name where nothing was written.
    """

    files: tuple[Written, ...]
    manifest: Manifest
    closes: bool
    seam: Seam
    notes: tuple[str, ...]
    images: dict[str, Pixels]


class _NamedTile(NamedTuple):
    """A tile, and the file of its image."""

    path: Path
    tile: Tile


def make_scroll(options: ScrollOptions, work: Work) -> ScrollMade:
    """Make a loop of tiles.

    Raises
    ------
    KivelError
        What the options, the images or the disk do not allow; nothing is written then.
    """
    tiles = [_tile(options, text, f"tile {number}") for number, text in enumerate(options.tiles, 1)]
    stem, source = tiles[0].path.stem, tiles[0].path.name
    maps = _maps(options, work, tiles[0])
    count = options.count
    frame_at = scrolling([each.tile for each in tiles], smooth=options.filter == "smooth")
    made, signatures = signed(
        [
            NewFrame(
                name=f"{stem}_{index:04d}",
                source=source,
                load=partial(_frame, frame_at, Fraction(index, count)),
                maps=[(stored, partial(map_at, Fraction(index, count))) for stored, map_at in maps],
            )
            for index in range(count)
        ]
    )
    clip = clip_of_frames(stem, [None] * count, options.timing())
    work.note(*(note for each in tiles for note in _tile_notes(each)))
    closes = bool(np.array_equal(frame_at(Fraction(0)), frame_at(Fraction(count, count))))
    folder = write_frames(options, work, NewFrames(stem, made, ClipSet((clip,))), command="scroll", beside=True)
    seam = judge_seam(signatures())
    return ScrollMade(folder.files, folder.manifest, closes, seam, tuple(work.notes), folder.images)


def _frame(frame_at: Callable[[Fraction], Pixels], time: Fraction) -> Frame:
    return Frame(frame_at(time))


def _tile(options: ScrollOptions, text: str, where: str) -> _NamedTile:
    """A tile as written."""
    with located(where):
        source, values = parse_source(text, TILE)
    limit, size, seed = options.pixel_limit, values.pop("by_size"), values.pop("by_seed")
    if isinstance(values["by"], NamedImage):
        values["by"] = single_image(values["by"], max_pixels=limit)
    if values["by"] is not None:
        with located(where):
            values["by"] = detailed(values["by"], size, seed)
    elif size is not None or seed is not None:
        raise UsageError("by-size and by-seed need by=, like by=waves", where=where)
    return _NamedTile(Path(source), Tile(single_image(source, max_pixels=limit), **values))


def _maps(options: ScrollOptions, work: Work, base: _NamedTile) -> list[tuple[StoredMap, Callable[[Fraction], Pixels]]]:
    """The companion maps of the first tile, which move as that does."""
    requests = options.map_requests()
    if not requests:
        return []
    sequence = FrameSequence(base.path.stem, tuple(open_image(base.path, max_pixels=options.pixel_limit)))
    maps, notes = companion_maps([sequence], requests, options.source_settings(work), neutral=False)
    # a displaced picture is stretched here and there, and vectors of motion with it
    left = [one for one in maps if one.content.name == "motion" and base.tile.by is not None]
    work.note(*notes, *maps_left([sequence._replace(maps=tuple(left))]))
    return [
        (
            stored_map(one),
            scrolling(
                [base.tile._replace(image=one.load(0))], smooth=options.filter == "smooth", kind=one.content.kind
            ),
        )
        for one in maps
        if one not in left
    ]


def _tile_notes(named: _NamedTile) -> list[str]:
    notes = []
    if not tile_seam(planes_of(named.tile.image)).meets:
        name = named.path.name
        notes.append(f"{name}: its sides do not meet, a line will scroll along; see kivel loop {name}")
    by = named.tile.by
    if isinstance(by, np.ndarray) and not tile_seam(planes_of(by)).meets:
        notes.append(f"what displaces {named.path.name}: its sides do not meet, a crease will show")
    return notes
