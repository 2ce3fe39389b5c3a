"""Put frames on a sheet of equal cells, with a manifest that says where each one is and how it plays."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from kivel.cli import options
from kivel.cli.report import Report, files_as_json
from kivel.core.errors import UsageError

if TYPE_CHECKING:
    from kivel.core.layout.grid import Grid
    from kivel.core.playback.clip import Clip

_EXAMPLES = """\
examples:
  kivel sheet moth/ -o moth.png --layout row --fps 12
      five drawn frames in one row, moth.png and moth.kivel.json

  kivel sheet "spore/spore_####.png" --range 1-25 -o spore.png --columns 5 --gap 2 --hold 80ms --repeat 1
      25 frames of a longer render, five to a row, two pixels apart, played once
"""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.epilog = _EXAMPLES
    options.add_frame_options(parser)
    group = parser.add_argument_group("layout")
    group.add_argument("--layout", choices=("grid", "row", "column"), default="grid", help="default: grid")
    group.add_argument("--columns", type=options.whole(1), metavar="N", help="default: what makes the sheet compact")
    group.add_argument("--rows", type=options.whole(1), metavar="N", help="default: as many as the frames fill")
    group.add_argument(
        "--cell", type=options.cell_size, metavar="WxH", help="cell size in pixels (default: that of the frames)"
    )
    group.add_argument("--gap", type=options.whole(0), default=0, metavar="N", help="pixels between cells (default: 0)")
    group.add_argument("--margin", type=options.whole(0), default=0, metavar="N", help="pixels around all (default: 0)")
    options.add_timing_options(parser)
    options.add_output_options(parser, "NAME.png")
    options.add_compress_option(parser)
    options.add_general_options(parser)


def run(args: argparse.Namespace) -> int:
    target = Path(args.out)
    if target.suffix.lower() != ".png":
        raise UsageError(f"expected a name that ends in .png, found {args.out!r}")
    from kivel.core.layout.grid import GridRequest, plan_grid
    from kivel.core.pixels import Size
    from kivel.formats.clips import clips_for
    from kivel.formats.compose import check_page, compose_sheet, place_in_cells
    from kivel.formats.frames import matched
    from kivel.formats.manifest.names import manifest_beside
    from kivel.formats.manifest.write import manifest_text
    from kivel.formats.png.write import BAND_BYTES, encode_png
    from kivel.formats.sheet import sheet_manifest
    from kivel.formats.sources import open_sources

    report = Report(args)
    jobs = options.jobs(args)
    align = options.alignment(args)
    request = GridRequest(args.layout, args.columns, args.rows, args.gap, args.margin)
    with options.output_set(args) as out:
        out.check(target)
        settings = options.source_options(args)
        frames = matched(open_sources(args.sources, settings), odd_size=args.odd_size, align=align)
        report.notes(frames.notes)
        clips = clips_for(frames, options.timing(args))
        cell = Size(*args.cell) if args.cell else frames.frames[0].size
        grid = plan_grid(len(frames.frames), cell, request)
        check_page(grid.size, settings.max_pixels)
        places = place_in_cells(frames.frames, grid, align)
        with report.progress("reading frames", len(frames.frames)) as advance:
            page = compose_sheet(frames, places, grid.size, jobs=jobs, advance=advance)
        manifest = sheet_manifest(frames, places, grid, page, file=target.name, clips=clips)
        pieces = encode_png(page, compress=args.compress, jobs=jobs)
        out.add(target, report.watched("writing the sheet", pieces, total=page.nbytes // BAND_BYTES + 1))
        out.add(manifest_beside(target), [manifest_text(manifest).encode()])
    described = {
        target.name: _grid_line(grid, len(frames.frames)),
        manifest_beside(target).name: _clips_line(clips),
    }
    report.written(out.written, described, dry_run=args.dry_run)
    report.document(
        {
            "files": files_as_json(out.written),
            "size": list(grid.size),
            "columns": grid.columns,
            "rows": grid.rows,
            "cell": list(grid.cell),
            "frames": len(frames.frames),
            "clips": [clip.name for clip in clips],
            "notes": list(frames.notes),
        }
    )
    return 0


def _grid_line(grid: Grid, count: int) -> str:
    empty = grid.capacity - count
    unused = f", {_count(empty, 'cell')} empty" if empty else ""
    frames = f"{count} frames, 0-{count - 1}" if count > 1 else "1 frame"
    cells = f"{_count(grid.columns, 'column')} x {_count(grid.rows, 'row')} of {grid.cell}"
    return f"{grid.size} px: {frames}, {cells}{unused}"


def _clips_line(clips: tuple[Clip, ...]) -> str:
    from kivel.core.playback.notation import format_repeat, format_seconds

    clip = clips[0]
    more = f", and {len(clips) - 1} more clips" if len(clips) > 1 else ""
    steps = _count(len(clip.steps), "step")
    return f'clip "{clip.name}": {steps}, {format_seconds(clip.length)}, {format_repeat(clip.repeat)}{more}'


def _count(count: int, thing: str) -> str:
    return f"{count} {thing}" if count == 1 else f"{count} {thing}s"
