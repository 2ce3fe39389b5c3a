"""Say how well a sequence loops; find where a long one loops best; close one by a cross-fade. Say how a tile meets."""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING, Any

from kivel.cli import options
from kivel.cli.report import Report
from kivel.core.errors import UsageError

if TYPE_CHECKING:
    from collections.abc import Sequence

    from kivel.core.looping.search import Window
    from kivel.core.looping.signature import Signature
    from kivel.core.resampling import Span
    from kivel.sequences.sequence import Frames

_EXAMPLES = """\
examples:
  kivel loop "vane/vane_#.png" --find 40-70
      does the turntable close? and which 40 to 70 frames of it would loop best?

  kivel loop spore/ -o spore-loop/ --close 8
      a burst that begins anew while the last of it fades: the end cross-faded into the start
"""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.epilog = _EXAMPLES
    options.add_frame_options(parser)
    group = parser.add_argument_group("looping")
    group.add_argument(
        "--find", type=options.lengths, metavar="MIN-MAX", help="rank the windows of so many frames that loop best"
    )
    group.add_argument("--pick", type=options.whole(1), metavar="RANK", help="with -o: which window (default: 1)")
    group.add_argument(
        "--close",
        type=options.whole(1),
        metavar="K",
        help="with -o: cross-fade the K frames after the loop into its first ones; without --find the last K frames",
    )
    group.add_argument("--tile", action="store_true", help="judge how left meets right and top meets bottom")
    options.add_kind(group)
    options.add_output_options(parser, "DIR", needed=False)
    options.add_compress_option(parser)
    options.add_general_options(parser)


def run(args: argparse.Namespace) -> int:
    from kivel.sequences.opening import open_sources
    from kivel.sequences.sequence import matched
    from kivel.sequences.signatures import signatures_of

    _check(args)
    report = Report(args)
    settings = options.source_options(args, keep_float=True)
    frames = matched(open_sources(args.sources, settings), odd_size=args.odd_size, align=options.alignment(args))
    if args.tile or (len(frames.frames) == 1 and not args.out):
        return _tile(report, frames)
    with report.progress("reading frames", len(frames.frames)) as advance:
        signatures = signatures_of(frames, jobs=options.jobs(args), advance=advance)
    return _sequence(args, report, frames, signatures)


def _check(args: argparse.Namespace) -> None:
    if args.out and not (args.find or args.close):
        raise UsageError("-o needs --close K, --find MIN-MAX, or both: what to write?")
    if args.close and not args.out:
        raise UsageError("--close makes frames: say where with -o DIR")
    if args.pick and not (args.find and args.out):
        raise UsageError("--pick chooses among what --find found, to be written with -o DIR")


def _tile(report: Report, frames: Frames) -> int:
    from kivel.core.looping.seam import tile_seam
    from kivel.core.looping.signature import planes_of
    from kivel.views.loop_lines import tile_lines

    seams = [tile_seam(planes_of(frame.load())) for frame in frames.frames]
    report.notes(frames.notes)
    for line in tile_lines([frame.source for frame in frames.frames], seams):
        report.line(line)
    report.document(
        {
            "tiles": [
                {"source": frame.source, "across": seam.across, "down": seam.down, "meets": seam.meets}
                for frame, seam in zip(frames.frames, seams, strict=True)
            ],
            "notes": list(frames.notes),
        }
    )
    return 0


def _sequence(args: argparse.Namespace, report: Report, frames: Frames, signatures: Sequence[Signature]) -> int:
    from kivel.core.looping.seam import judge_seam
    from kivel.core.looping.search import best_windows
    from kivel.views.loop_lines import seam_lines, window_lines

    seam = judge_seam(signatures)
    windows = best_windows(signatures, *args.find, room=args.close or 0) if args.find else []
    found = {"seam": seam._asdict(), "windows": [window._asdict() for window in windows]}
    chosen = _chosen(args, windows, len(signatures)) if args.out else None
    numbers = frames.numbers
    for line in (*seam_lines(frames.stem, numbers, seam, frames.clips), *window_lines(windows, numbers)):
        report.line(line)
    if chosen:
        _write(args, report, frames, chosen, found)
    else:
        report.notes(frames.notes)
        report.document({"frames": len(numbers), **found, "notes": list(frames.notes)})
    return 0


def _chosen(args: argparse.Namespace, windows: Sequence[Window], total: int) -> list[Span]:
    """The window picked, or the whole but for what is faded in, closed by a cross-fade if asked."""
    from kivel.core.looping.closing import closed
    from kivel.core.resampling import Span

    fade = args.close or 0
    first, length = 0, total - fade
    if args.find:
        if (args.pick or 1) > len(windows):
            raise UsageError(f"--pick {args.pick or 1}: --find found {len(windows)} windows")
        window = windows[(args.pick or 1) - 1]
        first, length = window.first, window.length
    return [Span(float(first + index), shares) for index, shares in enumerate(closed(first, length, fade, total))]


def _write(
    args: argparse.Namespace, report: Report, frames: Frames, spans: Sequence[Span], found: dict[str, Any]
) -> None:
    from kivel.cli.frame_output import signed, write_frames
    from kivel.core.looping.seam import judge_seam
    from kivel.making.resampling_frames import new_frames
    from kivel.sequences.clips import clip_over, stated_holds
    from kivel.views.loop_lines import seam_text

    holds = stated_holds(frames)
    made, signatures = signed(new_frames(frames, spans, kind=args.kind))
    write_frames(
        args,
        report,
        made,
        stem=frames.stem,
        clips=(clip_over(frames, [holds[int(span.position)] for span in spans]),),
        notes=frames.notes,
        more=lambda: {**found, "closed": judge_seam(signatures())._asdict()} if args.close else found,
    )
    if args.close:
        report.line(f"  closed   {seam_text(judge_seam(signatures()))}")
