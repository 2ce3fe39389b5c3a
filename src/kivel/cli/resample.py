"""Fewer or more frames over the same motion, evenly spaced or at a pace; the clip lasts as long as before."""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from kivel.cli import options
from kivel.cli.report import Report

if TYPE_CHECKING:
    from collections.abc import Sequence

    from kivel.core.resampling import Span
    from kivel.sequences.sequence import Frames

_SHOWN = 12
"""Mixed frames are many numbers; so many are shown, and all under --json."""

_EXAMPLES = """\
examples:
  kivel resample "vane/vane_#.png" -o vane-48/ --count 48 --mix
      a turntable of 120 frames as 48, each the average of what lies between: motion blur instead of stutter

  kivel resample spore/ -o spore-25/ --count 25 --range 1-32 --one-shot --pace ease-out
      25 of a burst's first 32 frames, both ends included, close together towards the end
"""


def _pace(text: str) -> object:
    from kivel.core.playback.easing import parse_easing

    return options.checked(parse_easing)(text)


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.epilog = _EXAMPLES
    options.add_frame_options(parser)
    group = parser.add_argument_group("resampling")
    group.add_argument("--count", type=options.whole(1), required=True, metavar="N", help="how many frames to make")
    group.add_argument(
        "--one-shot", action="store_true", help="include both ends (default: a loop, whose end is its start again)"
    )
    group.add_argument(
        "--mix",
        action="store_true",
        help="average what lies between, premultiplied and in linear light, instead of taking the nearest frame; "
        "with more frames than before: in-betweens",
    )
    group.add_argument(
        "--pace", type=_pace, metavar="EASING", help='a CSS easing function: ease-in, "cubic-bezier(...)", "steps(...)"'
    )
    options.add_kind(group)
    options.add_output_options(parser, "DIR")
    options.add_compress_option(parser)
    options.add_general_options(parser)


def run(args: argparse.Namespace) -> int:
    from kivel.cli.frame_output import write_frames
    from kivel.core.resampling import sample_positions, samples
    from kivel.making.resampling_frames import new_frames, resampled_clip
    from kivel.sequences.opening import open_sources
    from kivel.sequences.sequence import matched

    report = Report(args)
    settings = options.source_options(args, keep_float=True)
    frames = matched(open_sources(args.sources, settings), odd_size=args.odd_size, align=options.alignment(args))
    length = len(frames.frames)
    positions = sample_positions(length, args.count, one_shot=args.one_shot, pace=args.pace)
    spans = samples(length, positions, one_shot=args.one_shot, mix=args.mix)
    report.line(_taken(frames, spans))
    write_frames(
        args,
        report,
        new_frames(frames, spans, kind=args.kind),
        stem=frames.stem,
        clips=(resampled_clip(frames, args.count, pace=args.pace),),
        notes=frames.notes,
        more=lambda: {
            "of": length,
            "taken": [[{"frame": share.frame, "weight": share.weight} for share in span.shares] for span in spans],
        },
    )
    return 0


def _taken(frames: Frames, spans: Sequence[Span]) -> str:
    """Which frames, by the numbers in their names if they have any."""
    numbers = frames.numbers
    every = f"{len(spans)} of {len(numbers)} frames, {numbers[0]}-{numbers[-1]}"
    texts = [_mixed_text(span, numbers) for span in spans]
    if any(len(span.shares) > 1 for span in spans):
        each = sum(len(span.shares) for span in spans) / len(spans)
        shown = texts if len(texts) <= _SHOWN else [*texts[:4], "...", texts[-1]]
        return f"{every}: each the mean of {each:.3g} on average, {', '.join(shown)}"
    return f"{every}: {', '.join(texts)}"


def _mixed_text(span: Span, numbers: Sequence[int]) -> str:
    first, last = span.shares[0].frame, span.shares[-1].frame
    return str(numbers[first]) if first == last else f"{numbers[first]}-{numbers[last]}"
