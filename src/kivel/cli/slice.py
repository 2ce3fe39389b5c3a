"""Take a sheet apart into frames: by its manifest, or by a grid laid over any image."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from kivel.cli import options, playback
from kivel.cli.report import Report
from kivel.core.errors import UsageError, located

if TYPE_CHECKING:
    from kivel.core.slicing.fitting import SliceRequest
    from kivel.sequences.sequence import Frames

_EXAMPLES = """\
examples:
  kivel slice moth.kivel.json -o moth-frames/
      every frame of the sheet as its manifest says, with its timing

  kivel slice beetle.png -o beetle-frames/ --columns 7 --rows 3
      a plain image, 7 columns and 3 rows; the empty cells of its short last row are left out
"""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.epilog = _EXAMPLES
    parser.add_argument("source", metavar="IMAGE-or-MANIFEST", help="a sheet, or the .kivel.json beside one")
    parser.add_argument("--map", default="color", metavar="NAME", help="which map of a manifest (default: color)")
    group = parser.add_argument_group("grid of a plain image")
    group.add_argument("--columns", type=options.whole(1), metavar="N", help="alone: the cells are square")
    group.add_argument("--rows", type=options.whole(1), metavar="N", help="alone: the cells are square")
    group.add_argument("--cell", type=options.cell_size, metavar="WxH", help="cell size in pixels")
    group.add_argument("--gap", type=options.whole(0), default=0, metavar="N", help="pixels between cells (default: 0)")
    group.add_argument("--margin", type=options.whole(0), default=0, metavar="N", help="pixels around all (default: 0)")
    group.add_argument("--keep-empty", action="store_true", help="keep the transparent cells at the end")
    parser.add_argument(
        "--row-clips", type=playback.names, metavar="A,B,C", help="a clip for each row of the sheet, by these names"
    )
    options.add_output_options(parser, "DIR")
    options.add_compress_option(parser)
    options.add_general_options(parser)


def run(args: argparse.Namespace) -> int:
    from kivel.cli.frame_output import write_frames
    from kivel.core.playback.clip import Timing
    from kivel.making.frame_files import unchanged
    from kivel.sequences.clips import clips_for, groups_of, row_clips, stated_holds

    report = Report(args)
    frames, places = _frames(args)
    clips = clips_for(frames, Timing())
    if args.row_clips:
        if not places:
            raise UsageError(f"--row-clips names the rows of a grid, {args.source} has none")
        clips = row_clips(args.row_clips, places, stated_holds(frames), Timing())
    write_frames(
        args,
        report,
        [unchanged(frame) for frame in frames.frames],
        stem=frames.stem,
        clips=clips,
        notes=frames.notes,
        groups=groups_of([frames], clips),
    )
    return 0


def _frames(args: argparse.Namespace) -> tuple[Frames, list[tuple[int, int]]]:
    """The frames of a manifest, or the cells of an image; an image beside its manifest is sliced by that.

    And in which row of a grid each lies, and where in it.
    """
    from kivel.core.pixels import Size
    from kivel.core.slicing.fitting import SliceRequest
    from kivel.files.images import open_image
    from kivel.files.manifest.names import manifest_beside
    from kivel.sequences.cells import cells_of_image
    from kivel.sequences.opening import open_sources

    source = Path(args.source)
    cell = Size(*args.cell) if args.cell else None
    request = SliceRequest(args.columns, args.rows, cell, args.gap, args.margin)
    is_manifest = source.suffix == ".json"
    if is_manifest and not _asks_nothing(request, args):
        raise UsageError("a manifest says where the cells are; leave out the grid's options, or give the image")
    settings = options.source_options(args, keep_float=True)._replace(map=args.map)
    beside = manifest_beside(source)
    if is_manifest:
        return _with_places(open_sources([args.source], settings))
    if _asks_nothing(request, args) and beside.exists():
        frames = open_sources([str(beside)], settings)
        note = f"{source}: sliced as {beside.name} beside it says"
        return _with_places(frames._replace(notes=(*frames.notes, note)))
    images = open_image(source, max_pixels=settings.max_pixels)
    if len(images) > 1:
        raise UsageError(f"{source}: an animated image of {len(images)} frames, not a sheet; see kivel sheet")
    with located(args.source):
        frames, grid = cells_of_image(images[0], request, keep_empty=args.keep_empty)
    cells = [grid.cell_rect(index) for index in range(len(frames.frames))]
    return frames, [(cell.y, cell.x) for cell in cells]


def _with_places(frames: Frames) -> tuple[Frames, list[tuple[int, int]]]:
    from kivel.sequences.retimed import cells_in_rows

    return frames, cells_in_rows(frames.manifest) if frames.manifest else []


def _asks_nothing(request: SliceRequest, args: argparse.Namespace) -> bool:
    return request.says_nothing and not (request.gap or request.margin or args.keep_empty)
