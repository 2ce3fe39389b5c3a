"""Make a loop from tiles: scrolled a whole number of tiles, displaced by a grey map, several over each other."""

from __future__ import annotations

import argparse
from fractions import Fraction
from functools import partial
from typing import TYPE_CHECKING

from kivel.cli import options
from kivel.cli.report import Report
from kivel.core.errors import located

if TYPE_CHECKING:
    from collections.abc import Callable

    from kivel.core.drifting import Tile
    from kivel.core.pixels import Pixels
    from kivel.core.prepare.actions import Frame

_EXAMPLES = """\
examples:
  kivel drift "moss.png scroll=0,1 map=swell.png strength=6 map-scroll=1,0" -o moss-drift/ --count 48
      moss that flows down while a swell runs through it from the left, closed after 48 frames

  kivel drift "moss.png scroll=1,0" "moss.png scroll=-1,0 blend=screen opacity=0.4" -o moss-two/ --count 32 --pixel
      two layers against each other, moved by whole pixels

a tile is written IMAGE scroll=X,Y map=IMAGE strength=PX angle=DEGREES map-scroll=X,Y blend=NAME opacity=N
"""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.epilog = _EXAMPLES
    parser.add_argument("tiles", nargs="+", metavar="TILE", help='from the bottom up: "IMAGE scroll=1,0 map=..."')
    group = parser.add_argument_group("loop")
    group.add_argument("--count", type=options.whole(1), required=True, metavar="N", help="how many frames")
    group.add_argument("--pixel", action="store_true", help="move by whole pixels (default: smooth, in linear light)")
    options.add_timing_options(parser)
    options.add_output_options(parser, "DIR")
    options.add_compress_option(parser)
    options.add_general_options(parser)


def run(args: argparse.Namespace) -> int:
    import numpy as np

    from kivel.cli.frame_output import signed, write_frames
    from kivel.core.drifting import drifting
    from kivel.core.looping.seam import judge_seam
    from kivel.core.playback.clip import clip_of_frames
    from kivel.making.frame_files import NewFrame
    from kivel.views.loop_lines import seam_text

    report = Report(args)
    named = [_tile(args, text, f"tile {number}") for number, text in enumerate(args.tiles, 1)]
    stem, source, _ = named[0]
    count: int = args.count
    frame_at = drifting([tile for _, _, tile in named], smooth=not args.pixel)
    made, signatures = signed(
        [NewFrame(stem, source, partial(_frame, frame_at, Fraction(index, count))) for index in range(count)]
    )
    clip = clip_of_frames(stem, [None] * count, options.timing(args))
    notes = [note for _, name, tile in named for note in _tile_notes(name, tile)]
    closes = bool(np.array_equal(frame_at(Fraction(0)), frame_at(Fraction(count, count))))
    write_frames(
        args,
        report,
        made,
        stem=stem,
        clips=(clip,),
        notes=notes,
        more=lambda: {"closes": closes, "seam": judge_seam(signatures())._asdict()},
    )
    report.line(
        f"  seam     frame {count} {'is' if closes else 'is NOT'} frame 0, bit for bit; "
        f"{seam_text(judge_seam(signatures()))}"
    )
    return 0


def _frame(frame_at: Callable[[Fraction], Pixels], time: Fraction) -> Frame:
    from kivel.core.prepare.actions import Frame

    return Frame(frame_at(time))


def _tile(args: argparse.Namespace, text: str, where: str) -> tuple[str, str, Tile]:
    """The stem and name of its image, and the tile as written."""
    from pathlib import Path

    from kivel.core.drifting import TILE, Tile
    from kivel.core.prepare.written import parse_source
    from kivel.making.preparing import image_loader

    with located(where):
        source, values = parse_source(text, TILE)
    load = image_loader(options.source_options(args).max_pixels)
    if values["map"] is not None:
        values["map"] = load(values["map"])
    path = Path(source)
    return path.stem, path.name, Tile(load(source), **values)


def _tile_notes(name: str, tile: Tile) -> list[str]:
    from kivel.core.looping.seam import tile_seam
    from kivel.core.looping.signature import planes_of

    notes = []
    if not tile_seam(planes_of(tile.image)).meets:
        notes.append(f"{name}: its sides do not meet, a line will drift along; see kivel loop {name}")
    if tile.map is not None and not tile_seam(planes_of(tile.map)).meets:
        notes.append(f"the map of {name}: its sides do not meet, a crease will show")
    return notes
