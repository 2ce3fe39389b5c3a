"""Look at frames: an animated image at their own timing, or a contact sheet (.png) of every frame."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from kivel.cli import options
from kivel.cli.report import Report, files_as_json
from kivel.core.errors import UsageError

if TYPE_CHECKING:
    from fractions import Fraction

    from kivel.core.pixels import Pixels
    from kivel.core.playback.clip import Clip
    from kivel.files.images import FrameSource
    from kivel.sequences.sequence import Frames

_EXAMPLES = """\
examples:
  kivel preview moth.kivel.json -o moth.apng --scale 8
      the moth's clip, eight times as large, at its exact timing

  kivel preview spore/ -o spore-contact.png
      every frame in order, numbered, with its hold

  kivel preview moth.kivel.json -o moth-timing.png --chart
      every clip's steps to scale, with events, cycles and pace

  kivel preview props.kivel.json -o props-layout.png --layout
      the packed page: boxes, numbers, outlines, free space and the share used
"""

_BLENDS = 30
"""Pictures a second that an animated image shows of a clip whose frames blend."""
_SUFFIXES = (".png", ".apng", ".gif", ".webp")


def _scale(text: str) -> Fraction:
    from kivel.core.compose import parse_scale

    return options.checked(parse_scale)(text)


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.epilog = _EXAMPLES
    options.add_frame_options(parser)
    group = parser.add_argument_group("look")
    group.add_argument(
        "--clip",
        metavar="NAME",
        help="which clip of a manifest (default: the first; in a chart all)",
    )
    group.add_argument(
        "--scale", type=_scale, metavar="N", help="4, 0.5, 1/3 (default: small art is enlarged to about 256 px)"
    )
    group.add_argument(
        "--filter",
        choices=("nearest", "smooth"),
        help="how to scale (default: nearest; smooth in a contact sheet that shrinks)",
    )
    group.add_argument(
        "--backdrop",
        type=options.backdrop,
        metavar="checker|none|#rrggbb",
        default="checker",
        help="what transparent pixels show in an animated image (default: checker)",
    )
    group.add_argument(
        "--layout",
        action="store_true",
        help="draw the pages of a manifest instead: cells, boxes, frame numbers, gaps, free space (.png)",
    )
    group.add_argument(
        "--chart",
        action="store_true",
        help="draw when what shows instead: each clip's steps to scale, events, cycles and pace (.png)",
    )
    group.add_argument("--map", default="color", metavar="NAME", help="which map of a manifest (default: color)")
    options.add_timing_options(parser)
    options.add_output_options(parser, "OUT.png|.apng|.gif|.webp")
    options.add_general_options(parser)


def run(args: argparse.Namespace) -> int:
    target = Path(args.out)
    suffix = target.suffix.lower()
    if suffix not in _SUFFIXES:
        raise UsageError(f"expected a name that ends in {', '.join(_SUFFIXES)}, found {args.out!r}")
    if args.layout:
        return _draw_layout(args, target)
    if args.chart and suffix != ".png":
        raise UsageError(f"--chart makes a picture; expected a name that ends in .png, found {args.out!r}")
    from kivel.sequences.clips import clips_for
    from kivel.sequences.opening import open_sources
    from kivel.sequences.retimed import chosen_clips
    from kivel.sequences.sequence import matched

    report = Report(args)
    with options.output_set(args, with_manifest=False) as out:
        out.check(target)
        frames = open_sources(args.sources, options.source_options(args)._replace(map=args.map))
        clips = clips_for(frames, options.timing(args))
        chosen = chosen_clips(clips, [args.clip] if args.clip else [])
        clip = chosen[0]
        if frames.manifest is None:
            frames = matched(frames, odd_size=args.odd_size, align=options.alignment(args))
        elif suffix != ".png":
            frames, clip = _of_one_size(args, frames, clip)
        notes = [*frames.notes, *_beside_note(args.sources)]
        if args.chart:
            data, described = _timing_chart(args, frames, chosen)
        elif suffix == ".png":
            data, described = _contact_sheet(args, report, frames, clip)
        else:
            data, described, lost = _animation(args, report, frames, clip)
            notes += lost
        report.notes(notes)
        out.add(target, [data])
    report.written(out.written, {target.name: described}, dry_run=args.dry_run)
    report.document(
        {"files": files_as_json(out.written), "clip": clip.name, "frames": len(frames.frames), "notes": notes}
    )
    return 0


def _of_one_size(args: argparse.Namespace, frames: Frames, clip: Clip) -> tuple[Frames, Clip]:
    """The frames of a manifest that a clip shows; those of its other clips may be of any size."""
    from dataclasses import replace

    from kivel.sequences.sequence import matched

    used = sorted({step.frame for step in clip.steps})
    chosen = frames._replace(frames=tuple(frames.frames[index] for index in used))
    steps = tuple(step._replace(frame=used.index(step.frame)) for step in clip.steps)
    odd_size = "pad" if args.odd_size == "error" else args.odd_size
    return matched(chosen, odd_size=odd_size, align=options.alignment(args)), replace(clip, steps=steps)


def _draw_layout(args: argparse.Namespace, target: Path) -> int:
    """The pages of a manifest with everything that its numbers say drawn over them."""
    source = args.sources[0]
    if len(args.sources) > 1 or not source.endswith(".json"):
        raise UsageError(f"--layout draws what a manifest says; give one NAME.kivel.json, found {source!r}")
    if target.suffix.lower() != ".png":
        raise UsageError(f"--layout makes a picture; expected a name that ends in .png, found {args.out!r}")
    from kivel.files.manifest.parsing import read_manifest
    from kivel.files.png.write import encode_png
    from kivel.views.layout_drawing import draw_layout, drawn_pages, used_share

    report = Report(args)
    path = Path(source)
    with options.output_set(args, with_manifest=False) as out:
        out.check(target)
        manifest = read_manifest(path)
        max_pixels = options.source_options(args).max_pixels
        pages = drawn_pages(manifest, path, map=args.map, max_pixels=max_pixels)
        count = len(manifest.frames)
        span = f"{count} frames, 0-{count - 1}" if count > 1 else f"{count} frame"
        title = f"{path.name.removesuffix('.kivel.json')}  {span}"
        picture = draw_layout(pages, title + (f"   map {args.map}" if args.map != "color" else ""))
        out.add(target, [b"".join(encode_png(picture, compress="small", jobs=options.jobs(args)))])
    used = [used_share(page) for page in pages]
    what = "1 page" if len(pages) == 1 else f"{len(pages)} pages"
    text = f"layout of {what}, {', '.join(f'{share:.1%}' for share in used)} used"
    report.written(out.written, {target.name: text}, dry_run=args.dry_run)
    report.document({"files": files_as_json(out.written), "used": [round(share, 4) for share in used]})
    return 0


def _beside_note(sources: list[str]) -> list[str]:
    """A single image that is a sheet was probably meant to be seen playing."""
    from kivel.files.manifest.names import manifest_beside

    path = Path(sources[0])
    beside = manifest_beside(path)
    if len(sources) > 1 or path.suffix == ".json" or not (path.is_file() and beside.is_file()):
        return []
    return [f"{path}: shown as one image; give {beside} to see its frames play"]


def _contact_sheet(args: argparse.Namespace, report: Report, frames: Frames, clip: Clip) -> tuple[bytes, str]:
    from kivel.files.png.write import encode_png
    from kivel.views.contact_sheet import draw_contact_sheet

    jobs = options.jobs(args)
    sizes = [frame.size for frame in frames.frames]
    with report.progress("reading frames", len(sizes)) as advance:

        def load(frame: FrameSource) -> Pixels:
            pixels = frame.load()
            advance()
            return pixels

        loads = [partial(load, frame) for frame in frames.frames]
        sheet = draw_contact_sheet(loads, sizes, clip, filtering=args.filter, jobs=jobs)
    count = "1 frame" if len(sizes) == 1 else f"{len(sizes)} frames"
    text = f"contact sheet of {count}, {sheet.shape[1]}x{sheet.shape[0]} px"
    return b"".join(encode_png(sheet, compress="small", jobs=jobs)), text


def _timing_chart(args: argparse.Namespace, frames: Frames, clips: Sequence[Clip]) -> tuple[bytes, str]:
    from functools import cache

    from kivel.files.png.write import encode_png
    from kivel.views.timing_chart import MOST_CLIPS, draw_timing

    load = cache(lambda index: frames.frames[index].load())
    picture = draw_timing(frames.stem, clips, load)
    shown = min(len(clips), MOST_CLIPS)
    text = f"timing of {shown} clip{'s' if shown > 1 else ''}"
    return b"".join(encode_png(picture, compress="small", jobs=options.jobs(args))), text


def _animation(
    args: argparse.Namespace, report: Report, frames: Frames, clip: Clip
) -> tuple[bytes, str, tuple[str, ...]]:
    from fractions import Fraction

    from kivel.core.playback.notation import format_seconds
    from kivel.core.playback.schedule import schedule
    from kivel.files.animated import encode_animation
    from kivel.files.threads import in_order
    from kivel.views.looks import Look, default_scale
    from kivel.views.pictures import pictures, shown_picture

    scale = args.scale or default_scale(frames.frames[0].size)
    look = Look(scale, args.filter or "nearest", args.backdrop)
    jobs = options.jobs(args)
    plan = schedule(clip, blends=Fraction(_BLENDS))
    wanted = pictures(plan)
    with report.progress("reading frames", len(wanted)) as advance:
        shown = {}
        draw = partial(shown_picture, frames=frames.frames, look=look, map=args.map)
        for picture, image in zip(wanted, in_order(draw, wanted, jobs=jobs), strict=True):
            shown[picture] = image
            advance()
    encoded = encode_animation(
        Path(args.out).suffix.lower(),
        [shown[shot.picture] for shot in plan.shots],
        [shot.seconds for shot in plan.shots],
        repeat=plan.repeat,
        jobs=jobs,
    )
    height, width = shown[wanted[0]].shape[:2]
    steps = len(clip.order())
    text = f'clip "{clip.name}": {steps} steps, {format_seconds(clip.length)}, {width}x{height} px'
    if clip.interpolation == "linear":
        text += f", blended at {_BLENDS} pictures a second or more"
    return encoded.data, text, encoded.notes
