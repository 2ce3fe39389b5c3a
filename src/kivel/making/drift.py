"""Make a loop from tiles: scrolled a whole number of tiles, displaced by a grey image, several over each other."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, ClassVar

from kivel.core.errors import located
from kivel.core.named_tuples import NamedTuple
from kivel.making.options.clip_options import TimingOptions
from kivel.making.options.layout_options import CompanionOptions
from kivel.making.options.option import Option
from kivel.making.options.output_options import FrameOutputOptions
from kivel.making.options.value_kinds import FLAG, MOST_FRAMES, ValueKind, whole, written_path

if TYPE_CHECKING:
    from fractions import Fraction
    from pathlib import Path

    from kivel.core.drifting import Tile
    from kivel.core.looping.seam import Seam
    from kivel.core.pixels import Pixels
    from kivel.core.prepare.actions import Frame
    from kivel.files.manifest.model import Manifest
    from kivel.files.output_set import Written
    from kivel.files.page_store import StoredMap
    from kivel.making.work import Work

__all__ = ["DriftMade", "DriftOptions", "make_drift"]


def _moved_tile(text: str, move: Callable[[str], str]) -> str:
    from kivel.core.drifting import TILE
    from kivel.core.prepare.written import moved_source

    return moved_source(text, TILE, move)


class DriftOptions(TimingOptions, CompanionOptions, FrameOutputOptions):
    """Tiles that drift."""

    title = "loop"
    everyday: ClassVar = (
        "out", "count", "pixel", "map", "map-suffix", "fps", "hold", "repeat", "compress", "force",
    )  # fmt: skip
    tiles: Option[tuple[str, ...]] = Option(
        ValueKind("TILE", str, written_path),
        'from the bottom up: "IMAGE scroll=1,0 by=..."',
        default=(),
        many=True,
        positional=True,
        needed=True,
        from_folder=_moved_tile,
    )
    count: Option[int] = Option(whole(1, MOST_FRAMES), "how many frames", default=0, needed=True)
    pixel: Option[bool] = Option(FLAG, "move by whole pixels (default: smooth, in linear light)", default=False)


class DriftMade(NamedTuple):
    """A drifting loop: files with what became of each, the manifest, whether it closes bit for bit, and its seam.

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


def make_drift(options: DriftOptions, work: Work) -> DriftMade:
    """Make a loop of tiles.

    Raises
    ------
    KivelError
        What the options, the images or the disk do not allow; nothing is written then.
    """
    from fractions import Fraction
    from functools import partial

    import numpy as np

    from kivel.core.drifting import drifting
    from kivel.core.looping.seam import judge_seam
    from kivel.core.playback.clip import clip_of_frames
    from kivel.making.frame_files import NewFrame, signed, write_frames
    from kivel.sequences.clips import ClipSet

    tiles = [_tile(options, text, f"tile {number}") for number, text in enumerate(options.tiles, 1)]
    stem, source = tiles[0].path.stem, tiles[0].path.name
    maps = _maps(options, work, tiles[0])
    count = options.count
    frame_at = drifting([each.tile for each in tiles], smooth=not options.pixel)
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
    folder = write_frames(
        options, work, made, command="drift", stem=stem, clips=ClipSet((clip,)), sources=(), beside=True
    )
    seam = judge_seam(signatures())
    return DriftMade(folder.files, folder.manifest, closes, seam, tuple(work.notes), folder.images)


def _frame(frame_at: Callable[[Fraction], Pixels], time: Fraction) -> Frame:
    from kivel.core.prepare.actions import Frame

    return Frame(frame_at(time))


def _tile(options: DriftOptions, text: str, where: str) -> _NamedTile:
    """A tile as written."""
    from pathlib import Path

    from kivel.core.drifting import TILE, Tile
    from kivel.core.prepare.written import parse_source
    from kivel.making.prepared_frames import single_image

    with located(where):
        source, values = parse_source(text, TILE)
    limit = options.pixel_limit
    if values["by"] is not None:
        values["by"] = single_image(values["by"], max_pixels=limit)
    return _NamedTile(Path(source), Tile(single_image(source, max_pixels=limit), **values))


def _maps(options: DriftOptions, work: Work, base: _NamedTile) -> list[tuple[StoredMap, Callable[[Fraction], Pixels]]]:
    """The companion maps of the first tile, which move as that does."""
    from kivel.core.drifting import drifting
    from kivel.files.images import open_image
    from kivel.making.pages import stored_map
    from kivel.sequences.pairing import companion_maps, maps_left
    from kivel.sequences.sequence import FrameSequence

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
            drifting([base.tile._replace(image=one.load(0))], smooth=not options.pixel, kind=one.content.kind),
        )
        for one in maps
        if one not in left
    ]


def _tile_notes(named: _NamedTile) -> list[str]:
    from kivel.core.looping.seam import tile_seam
    from kivel.core.looping.signature import planes_of

    notes = []
    if not tile_seam(planes_of(named.tile.image)).meets:
        name = named.path.name
        notes.append(f"{name}: its sides do not meet, a line will drift along; see kivel loop {name}")
    if named.tile.by is not None and not tile_seam(planes_of(named.tile.by)).meets:
        notes.append(f"what displaces {named.path.name}: its sides do not meet, a crease will show")
    return notes
