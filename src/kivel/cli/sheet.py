"""Put frames on sheets of equal cells, with a manifest that says where each one is and how it plays."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from kivel.cli import layout, options, playback
from kivel.cli.report import Report, files_as_json
from kivel.core.errors import UsageError

if TYPE_CHECKING:
    from kivel.core.layout.placement import Placement
    from kivel.core.layout.sheet_plan import SheetPlan, SheetRequest
    from kivel.core.pixels import Size
    from kivel.core.playback.clip import Clip
    from kivel.sequences.pairing import MapFrames
    from kivel.sequences.sequence import Frames

_EXAMPLES = """\
examples:
  kivel sheet moth/ -o moth.png --layout row --fps 12
      five drawn frames in one row, moth.png and moth.kivel.json

  kivel sheet "vane/vane_#.png" -o vane.png --map-suffix normal=_normal --page-limit 2048x2048 --multiple-of 4
      a render and its normal map in step, on as many pages as it takes: vane-0.png, vane-0.normal.png, ...
"""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.epilog = _EXAMPLES
    options.add_frame_options(parser)
    group = parser.add_argument_group("layout")
    group.add_argument("--layout", choices=("grid", "row", "column"), default="grid", help="default: grid")
    group.add_argument("--columns", type=options.whole(1), metavar="N", help="default: what makes the sheet compact")
    group.add_argument("--rows", type=options.whole(1), metavar="N", help="default: as many as the frames fill")
    group.add_argument(
        "--fill", choices=("across", "down"), default="across", help="which way frames run (default: across)"
    )
    group.add_argument(
        "--sequences",
        choices=("apart", "joined"),
        default="apart",
        help="several SRC: each begins a new row (default), or all run on",
    )
    group.add_argument(
        "--cell", type=options.cell_size, metavar="WxH", help="cell size in pixels (default: that of the frames)"
    )
    group.add_argument(
        "--scale-to-cell",
        choices=("smooth", "nearest"),
        help="scale frames to the cell, keeping their aspect; nearest for pixel art",
    )
    layout.add_spacing_options(group)
    group.add_argument(
        "--into", metavar="OLD.kivel.json", help="add the frames in the free cells of this sheet, moving nothing"
    )
    layout.add_page_options(parser, limit="the largest page; more frames go on more pages (default: no limit)")
    layout.add_map_options(parser)
    options.add_timing_options(parser)
    _add_playing_options(playback.add_clip_options(parser))
    options.add_output_options(parser, "NAME.png", needed=False)
    options.add_compress_option(parser)
    options.add_general_options(parser)


def _add_playing_options(group: argparse._ArgumentGroup) -> None:
    group.add_argument(
        "--row-clips", type=playback.names, metavar="A,B,C", help="a clip for each row of the sheet, by these names"
    )
    group.add_argument(
        "--fold",
        nargs="?",
        const="ping-pong",
        choices=("ping-pong", "steps"),
        help="store each picture once, and prove that it plays the same; a mirrored half becomes ping-pong (default), "
        "or steps for targets without it",
    )
    group.add_argument(
        "--inbetween",
        type=options.whole(1),
        metavar="N",
        help="N blended frames between neighbours, for targets that cannot interpolate",
    )


def run(args: argparse.Namespace) -> int:
    if args.into:
        from kivel.cli import sheet_into

        return sheet_into.run(args)
    if not args.out:
        raise UsageError("required: -o NAME.png, or --into OLD.kivel.json")
    suffix = layout.target_suffix(args.out)
    from kivel.files.manifest.names import manifest_beside
    from kivel.files.manifest.text import manifest_text
    from kivel.making.pages import PageLook, check_page, older_pages, whole_frame, write_pages
    from kivel.making.sheet_cells import place_in_cells, sheet_manifest
    from kivel.sequences.clips import clips_of

    report = Report(args)
    jobs = options.jobs(args)
    target = Path(args.out)
    request = sheet_request(args)
    with options.output_set(args) as out:
        out.check(target)
        sequences, maps, notes = layout.opened(args, keep_float=suffix == ".exr")
        clips = clips_of(sequences, options.timing(args), playback.clip_requests(args))
        opened = sequences
        sequences, maps, clips, said = _other_frames(args, report, sequences, maps, clips)
        notes += said
        frames, maps, cell, scaling = layout.in_one_cell(args, sequences, maps)
        request = request._replace(new_lines=request.new_lines and len(sequences) > 1)
        plan = _plan([len(sequence.frames) for sequence in sequences], cell, request)
        check_page(plan.page, options.source_options(args).max_pixels)
        placements = place_in_cells(frames, plan, options.alignment(args), step=layout.step_of(maps))
        notes += scaling
        if args.row_clips:
            clips = _row_clips(args, sequences, plan)
        groups = playback.groups(args, opened, clips)
        if plan.grid.cell != cell:
            notes.append(
                f"cells grow from {cell} to {plan.grid.cell} px, so that each begins on a mip texel of its own"
            )
        report.notes(notes)
        look = PageLook(args.skirt, args.skirt_wrap, args.compress, is_premultiplied(opened))
        with report.progress("reading frames", len(frames) * len(maps)) as advance:
            pages = write_pages(
                out, target, [plan.page] * plan.pages, maps, placements, look, load=whole_frame,
                watched=report.watching("writing the sheet"), jobs=jobs, advance=advance,
            )  # fmt: skip
        manifest = sheet_manifest(frames, placements, plan, pages, skirt=args.skirt, clips=clips, groups=groups)
        out.add(manifest_beside(target), [manifest_text(manifest).encode()])
        late = older_pages(target, [target.with_name(file.file) for page in pages for file in page.maps.values()])
        report.notes(late)
    lines = [_page_line(plan, placements, number) for number in range(plan.pages)]
    described = layout.described_maps(pages)
    described |= {page.maps["color"].file: line for page, line in zip(pages, lines, strict=True)}
    described[manifest_beside(target).name] = layout.clips_line(clips)
    report.written(out.written, described, dry_run=args.dry_run)
    report.document(
        {
            "files": files_as_json(out.written),
            "size": list(plan.page),
            "pages": plan.pages,
            "columns": plan.grid.columns,
            "rows": plan.grid.rows,
            "cell": list(plan.grid.cell),
            "empty": plan.empty,
            "frames": len(frames),
            "maps": [one.name for one in maps],
            "clips": [clip.name for clip in clips],
            "notes": notes + late,
        }
    )
    return 0


def _other_frames(
    args: argparse.Namespace, report: Report, sequences: list[Frames], maps: list[MapFrames], clips: tuple[Clip, ...]
) -> tuple[list[Frames], list[MapFrames], tuple[Clip, ...], list[str]]:
    """--inbetween and --fold: more frames or fewer that play as was asked for."""
    if args.row_clips and (args.fold or args.inbetween):
        raise UsageError("--row-clips counts the frames that --fold and --inbetween change; name clips by --clip")
    notes: list[str] = []
    if not (args.inbetween or args.fold):
        return sequences, maps, clips, notes
    from kivel.making.playable import Playable, blended_between, each_picture_once

    playable = Playable(sequences, maps, clips)
    if args.inbetween:
        if is_premultiplied(sequences):
            raise UsageError("--inbetween blends straight alpha; run kivel prep --step unpremultiply first")
        before = playable.frames
        playable = blended_between(playable, args.inbetween)
        made = layout.count(playable.frames - before, "blended frame")
        notes.append(f"{made} between {before}, premultiplied, in linear light; holds are divided")
    if args.fold:
        with report.progress("comparing frames", playable.frames) as advance:
            playable, said = each_picture_once(
                playable, mirror=args.fold == "ping-pong", jobs=options.jobs(args), advance=advance
            )
        notes += said
    return *playable, notes


def _row_clips(args: argparse.Namespace, sequences: list[Frames], plan: SheetPlan) -> tuple[Clip, ...]:
    from kivel.sequences.clips import row_clips, stated_holds

    holds = [hold for sequence in sequences for hold in stated_holds(sequence)]
    cells = [(slot.page, plan.grid.cell_rect(slot.cell)) for slot in plan.slots()]
    places = [(page * plan.page.h + cell.y, cell.x) for page, cell in cells]
    return row_clips(args.row_clips, places, holds, options.timing(args))


def sheet_request(args: argparse.Namespace) -> SheetRequest:
    """What the arguments ask of a sheet."""
    from kivel.core.layout.sheet_plan import SheetRequest

    return SheetRequest(
        args.layout,
        args.columns,
        args.rows,
        layout.spacing(args),
        args.fill,
        layout.page_rule(args),
        new_lines=args.sequences == "apart" and args.layout == "grid",
    )


def is_premultiplied(sequences: list[Frames]) -> bool:
    manifests = [sequence.manifest for sequence in sequences]
    return all(manifest and {page.alpha for page in manifest.pages} == {"premultiplied"} for manifest in manifests)


def _plan(lengths: list[int], cell: Size, request: SheetRequest) -> SheetPlan:
    from kivel.core.layout.sheet_plan import plan_sheet

    return plan_sheet(lengths, cell, request)


def _page_line(plan: SheetPlan, placements: list[Placement], number: int) -> str:
    grid = plan.grid
    on_page = [index for index, placement in enumerate(placements) if placement.page == number]
    empty = grid.capacity - len(on_page)
    parts = [f"{plan.page} px: {_frames(on_page)}"]
    parts.append(f"{layout.count(grid.columns, 'column')} x {layout.count(grid.rows, 'row')} of {grid.cell}")
    if empty:
        parts.append(f"{layout.count(empty, 'cell')} empty")
    unused = plan.page.w - grid.size.w, plan.page.h - grid.size.h
    if any(unused):
        parts.append(f"{unused[0]} px unused to the right, {unused[1]} below")
    return ", ".join(parts)


def _frames(numbers: list[int]) -> str:
    return f"{len(numbers)} frames, {numbers[0]}-{numbers[-1]}" if len(numbers) > 1 else "1 frame"
