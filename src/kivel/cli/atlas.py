"""Trim frames of any size and pack them tight on pages, with a manifest that puts every frame back where it was."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING, Any

from kivel.cli import layout, options, playback
from kivel.cli.report import Report, files_as_json
from kivel.core.errors import UsageError

if TYPE_CHECKING:
    from kivel.core.layout.paging import AtlasRequest
    from kivel.files.images import FrameSource
    from kivel.making.atlas_pages import PackedFrames
    from kivel.making.trimmed import Measured, TrimRequest
    from kivel.sequences.pairing import MapFrames

_EXAMPLES = """\
examples:
  kivel atlas props/ -o props.png --pow2
      sixty props on the smallest page of powers of two that was found to hold them

  kivel atlas moth/ "lantern/lantern_#.png" -o night.png --turn --page-limit 1024x1024 --pages together
      two sequences, quarter turns allowed, frames of one folder on one page
"""

_DEFAULT_LIMIT = (4096, 4096)
_FAINT_ALPHA = 8
_WORTH_SAYING = 0.03


def _points(text: str) -> int:
    if not (text.isascii() and text.isdigit() and 3 <= int(text) <= 64):
        raise argparse.ArgumentTypeError(f"expected 3 to 64 points, fewer enclose nothing, found {text!r}")
    return int(text)


def _alpha(text: str) -> int:
    if not (text.isascii() and text.isdigit() and int(text) <= 254):
        raise argparse.ArgumentTypeError(f"expected an alpha from 0 to 254, found {text!r}")
    return int(text)


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.epilog = _EXAMPLES
    options.add_sources(parser)
    group = parser.add_argument_group("frames")
    options.add_range(group)
    _add_trimming(parser)
    group = parser.add_argument_group("packing")
    group.add_argument("--turn", action="store_true", help="frames may lie turned by a quarter")
    layout.add_spacing_options(group, gap=1)
    group.add_argument(
        "--effort",
        choices=("quick", "normal", "high"),
        default="normal",
        help="how much is tried; never a clock, so that the result is the same everywhere (default: normal)",
    )
    group = layout.add_page_options(parser, limit="the largest page (default: 4096x4096)")
    group.add_argument(
        "--pages",
        choices=("fill", "balance", "together"),
        default="fill",
        help="of several: one full after the other (default), all about as full, or a folder's frames together",
    )
    layout.add_map_options(parser).add_argument(
        "--trim-by", choices=("all", "color"), default="all", help="the box of all maps together (default), or of color"
    )
    options.add_timing_options(parser)
    playback.add_clip_options(parser)
    options.add_output_options(parser, "NAME.png")
    options.add_compress_option(parser)
    options.add_general_options(parser)


def _add_trimming(parser: argparse.ArgumentParser) -> None:
    group = parser.add_argument_group("trimming and sharing")
    group.add_argument("--no-trim", action="store_true", help="pack whole frames")
    group.add_argument(
        "--visible-above",
        type=_alpha,
        default=0,
        metavar="N",
        help="alpha up to N, of 255, is cut off where it lies outside the rest (default: 0)",
    )
    group.add_argument(
        "--keep-hidden", action="store_true", help="keep all colour under alpha 0 (boxes grow to hold it)"
    )
    group.add_argument(
        "--ignore-hidden",
        action="store_true",
        help="frames that differ only in colour under alpha 0 are the same",
    )
    group.add_argument("--share-flips", action="store_true", help="store mirrored frames once; the manifest says which")
    group.add_argument(
        "--outline", type=_points, default=0, metavar="N", help="a convex polygon of up to N points for each frame"
    )


def run(args: argparse.Namespace) -> int:
    suffix = layout.target_suffix(args.out)
    if args.keep_hidden and (args.visible_above or args.ignore_hidden):
        raise UsageError("--keep-hidden keeps what --visible-above and --ignore-hidden give up; choose one")
    from kivel.files.manifest.names import manifest_beside
    from kivel.files.manifest.text import manifest_text
    from kivel.making.atlas_pages import atlas_manifest, packed_frames
    from kivel.making.pages import PageLook, older_pages, write_pages
    from kivel.making.trimmed import Kept, measured
    from kivel.sequences.clips import clips_of

    report = Report(args)
    jobs = options.jobs(args)
    target = Path(args.out)
    request = _request(args)
    with options.output_set(args) as out:
        out.check(target)
        sequences, maps, notes = layout.opened(args, keep_float=suffix == ".exr", series=True, one_size=False)
        frames = [frame for frame in maps[0].frames if frame is not None]
        kept = Kept()
        with report.progress("measuring frames", len(frames)) as advance:
            looked_at = measured(maps, _trim_request(args, maps), kept, jobs=jobs, advance=advance)
        notes += _notes(args, frames, looked_at, maps)
        report.notes(notes)
        settings = options.source_options(args)
        atlas = packed_frames(frames, looked_at, request, max_pixels=settings.max_pixels)
        kept.keep_only(atlas.packed)
        sizes = [page.size for page in atlas.pages]
        look = PageLook(args.skirt, args.skirt_wrap, args.compress)
        with report.progress("placing frames", len(atlas.packed) * len(maps)) as advance:
            pages = write_pages(
                out, target, sizes, maps, atlas.placements, look, load=kept.part,
                watched=report.watching("writing the atlas"), jobs=jobs, advance=advance,
            )  # fmt: skip
        clips = clips_of(sequences, options.timing(args), playback.clip_requests(args), only_moving=True)
        groups = playback.groups(args, sequences, clips)
        manifest = atlas_manifest(frames, looked_at, atlas.placements, pages, clips=clips, groups=groups)
        out.add(manifest_beside(target), [manifest_text(manifest).encode()])
        late = older_pages(target, [target.with_name(file.file) for page in pages for file in page.maps.values()])
        report.notes(late)
    facts = _facts(frames, looked_at, atlas)
    described = layout.described_maps(pages)
    described |= {page.maps["color"].file: text for page, text in zip(pages, _page_lines(atlas), strict=True)}
    described[manifest_beside(target).name] = f"{_frames_line(facts)}; {layout.clips_line(clips)}"
    report.written(out.written, described, dry_run=args.dry_run)
    report.document(
        {
            "files": files_as_json(out.written),
            **facts,
            "maps": [one.name for one in maps],
            "clips": [clip.name for clip in clips],
            "notes": notes + late,
        }
    )
    return 0


def _request(args: argparse.Namespace) -> AtlasRequest:
    from kivel.core.layout.paging import AtlasRequest

    rule = layout.page_rule(args, default_limit=_DEFAULT_LIMIT)
    return AtlasRequest(layout.spacing(args), rule, args.turn, args.effort, args.pages)


def _trim_request(args: argparse.Namespace, maps: list[MapFrames]) -> TrimRequest:
    from kivel.making.trimmed import TrimRequest

    if args.share_flips and any(one.content.kind.startswith("normal") or one.name == "motion" for one in maps):
        raise UsageError(
            "--share-flips: mirrored vectors are others; leave it out where there is a normal or motion map"
        )
    return TrimRequest(
        args.visible_above,
        not args.no_trim,
        args.trim_by == "color",
        args.keep_hidden,
        not args.ignore_hidden,
        args.share_flips,
        layout.step_of(maps),
        args.outline,
    )


def _notes(
    args: argparse.Namespace, frames: list[FrameSource], looked_at: list[Measured], maps: list[MapFrames]
) -> list[str]:
    """What trimming gave up, or could."""
    from kivel.core.wording import first_few

    notes = []
    for one in maps:
        lost = [frame.name for frame, seen in zip(frames, looked_at, strict=True) if len(seen.grounds[one.name]) > 1]
        if lost and not args.visible_above and (one.name == "color" or args.trim_by == "all"):
            where = "" if one.name == "color" else f"map {one.name}: "
            left = f"{where}colour under alpha 0 outside the boxes is left behind ({first_few(lost)})"
            notes.append(f"{left}; --keep-hidden keeps it")
    boxes = sum(seen.box.w * seen.box.h for seen in looked_at if seen.box)
    tighter = sum(seen.tighter for seen in looked_at)
    exact = args.no_trim or args.keep_hidden
    if args.visible_above < _FAINT_ALPHA and not exact and tighter < boxes * (1 - _WORTH_SAYING):
        notes.append(f"boxes would be {1 - tighter / boxes:.0%} smaller with --visible-above {_FAINT_ALPHA}")
    return notes


def _facts(frames: list[FrameSource], looked_at: list[Measured], atlas: PackedFrames) -> dict[str, Any]:
    """The figures of the result."""
    canvases = sum(frame.size.w * frame.size.h for frame in frames)
    boxes = sum(seen.box.w * seen.box.h for seen in looked_at if seen.box)
    outlines = [seen.outline for seen in looked_at if seen.outline]
    facts: dict[str, Any] = {
        "pages": [
            {"size": list(page.size), "packed": len(page.places), "used": round(page.used, 4)} for page in atlas.pages
        ],
        "frames": len(frames),
        "packed": len(atlas.packed),
        "shared": sum(place.shared for place, seen in zip(atlas.placements, looked_at, strict=True) if seen.box),
        "mirrored": sum(place.flip is not None for place in atlas.placements),
        "turned": sum(place.turn == 90 for place in atlas.placements),
        "empty": sum(seen.box is None for seen in looked_at),
        "trimmed_share": round(boxes / canvases, 4),
        "share_at_alpha_8": round(sum(seen.tighter for seen in looked_at) / canvases, 4),
    }
    if outlines:
        facts["outline_wasted"] = sum(outline.wasted for outline in outlines)
        facts["box_wasted"] = boxes - sum(outline.area - outline.wasted for outline in outlines)
    return facts


def _page_lines(atlas: PackedFrames) -> list[str]:
    return [
        f"{page.size} px: {layout.count(len(page.places), 'frame')} packed, {page.used:.1%} used"
        for page in atlas.pages
    ]


def _frames_line(facts: dict[str, Any]) -> str:
    count = facts["frames"]
    parts = [f"{count} frames, 0-{count - 1}" if count > 1 else "1 frame"]
    if facts["trimmed_share"] < 1:
        parts.append(f"trimmed to {facts['trimmed_share']:.0%} of their area")
    if facts["shared"]:
        mirrored = f" ({facts['mirrored']} mirrored)" if facts["mirrored"] else ""
        parts.append(f"{facts['shared']} the same as others{mirrored}")
    parts += [f"{facts[what]} {what}" for what in ("turned", "empty") if facts[what]]
    if "outline_wasted" in facts:
        parts.append(f"outlines waste {facts['outline_wasted']:,.0f} px, boxes {facts['box_wasted']:,.0f}")
    return ", ".join(parts)
