"""Arguments about how clips play."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from typing import TYPE_CHECKING

from kivel.cli import options
from kivel.core.errors import KivelError, UsageError

if TYPE_CHECKING:
    from kivel.core.playback.changes import Changes
    from kivel.core.playback.clip import Clip
    from kivel.files.manifest.model import Group
    from kivel.sequences.clips import ClipRequest
    from kivel.sequences.retimed import GroupRequest
    from kivel.sequences.sequence import Frames

__all__ = [
    "add_clip_options",
    "add_group_options",
    "add_play_options",
    "add_time_options",
    "changes",
    "clip_requests",
    "group_requests",
    "groups",
    "names",
]


def _pace(text: str) -> object:
    from kivel.core.playback.easing import parse_easing

    return options.checked(parse_easing)(text)


def _length(text: str) -> object:
    from kivel.core.playback.notation import parse_time

    def read(text: str) -> object:
        length = parse_time(text)
        if not length:
            raise KivelError(f"expected a length above 0, like 1.5s, found {text!r}")
        return length

    return options.checked(read)(text)


def _group(text: str) -> tuple[str, str]:
    name, separator, pattern = text.partition("=")
    if not (separator and name.strip() and pattern.strip()):
        raise argparse.ArgumentTypeError(f"expected NAME=CLIPS, like row=lantern-*, found {text!r}")
    return name.strip(), pattern.strip()


def names(text: str) -> tuple[str, ...]:
    """`walk,run,rest`."""
    found = tuple(name.strip() for name in text.split(","))
    if not all(found) or len(set(found)) < len(found):
        raise argparse.ArgumentTypeError(f"expected names, each another, like walk,run,rest, found {text!r}")
    return found


def _clip(text: str) -> tuple[str, str]:
    name, separator, what = text.partition("=")
    if not (separator and name.strip() and what.strip()):
        raise argparse.ArgumentTypeError(f"expected NAME=FRAMES, like peck=4-9 or walk=walk_*, found {text!r}")
    return name.strip(), what.strip()


def add_clip_options(parser: argparse.ArgumentParser) -> argparse._ArgumentGroup:
    """--clip NAME=FRAMES, --group, --choose."""
    group = parser.add_argument_group("clips")
    group.add_argument(
        "--clip",
        type=_clip,
        action="append",
        default=[],
        metavar="NAME=FRAMES",
        help="a clip of some frames: peck=4-9, peck=hen:4-9 (of the sequence hen), walk=walk_* (by name) (many)",
    )
    add_group_options(group)
    return group


def clip_requests(args: argparse.Namespace) -> list[ClipRequest]:
    """--clip NAME=FRAMES."""
    from kivel.sequences.clips import ClipRequest

    return [ClipRequest(*each) for each in args.clip]


def groups(args: argparse.Namespace, sequences: Sequence[Frames], clips: Sequence[Clip]) -> tuple[Group, ...]:
    """The groups that came with the frames, and those asked for."""
    from kivel.sequences.clips import groups_of
    from kivel.sequences.retimed import with_groups

    return with_groups(groups_of(sequences, clips), clips, group_requests(args))


def add_time_options(parser: argparse.ArgumentParser) -> None:
    """--order, --fps, --hold, --holds, --length, --speed, --pace, --timebase, --convert."""
    group = parser.add_argument_group("frames and times")
    group.add_argument(
        "--order",
        type=options.notation("parse_order"),
        metavar="FRAMES",
        help="the frames to show: 0-7, 0-3*2,4*6,3-1; *N: held N times as long as is usual",
    )
    rate = group.add_mutually_exclusive_group()
    rate.add_argument("--fps", type=options.notation("parse_rate"), metavar="R", help="every step shows for 1/R s")
    rate.add_argument(
        "--hold", type=options.notation("parse_hold"), metavar="T", help="every step: ticks (2) or a time (80ms)"
    )
    rate.add_argument(
        "--holds", type=options.notation("parse_holds"), metavar="LIST", help="one for each step: 4,2,2,8 or 80ms*3,1s"
    )
    group.add_argument("--length", type=_length, metavar="T", help="one cycle lasts so long (1.5s), in proportion")
    group.add_argument(
        "--speed", type=options.notation("parse_rate"), metavar="N", help="so many times as fast: 2, 1/2"
    )
    group.add_argument(
        "--pace",
        type=_pace,
        metavar="EASING",
        help="a CSS easing function: frames go by unevenly, the total stays: ease-in-out, cubic-bezier(0.3, 0, 0.7, 1)",
    )
    group.add_argument(
        "--timebase",
        type=options.notation("parse_rate"),
        metavar="R",
        help="count in R ticks a second; times stay as they are",
    )
    group.add_argument("--convert", action="store_true", help="round to that timebase, without drift, where it must be")


def add_play_options(parser: argparse.ArgumentParser) -> None:
    """--direction, --hold-ends, --repeat, --end, --interpolation, --phase, --event, --no-events."""
    group = parser.add_argument_group("playing")
    group.add_argument("--direction", choices=("forward", "reverse", "ping-pong"), help="ping-pong: each end once")
    group.add_argument(
        "--hold-ends", action=argparse.BooleanOptionalAction, help="ping-pong shows each end twice, or once again"
    )
    group.add_argument(
        "--repeat", type=options.notation("parse_repeat"), metavar="N", help="how many cycles, or forever"
    )
    group.add_argument("--end", choices=("last", "first", "none"), help="what shows after a finite clip")
    group.add_argument("--interpolation", choices=("step", "linear"), help="linear: blend towards the next frame")
    group.add_argument(
        "--phase",
        type=options.notation("parse_phase"),
        metavar="P",
        help="where it starts: in steps (3, 2.5), or 25%% of a cycle",
    )
    group.add_argument(
        "--event",
        type=options.notation("parse_event"),
        action="append",
        default=[],
        metavar="STEP:NAME",
        help="what happens when a step begins to show: 3:chirp (many)",
    )
    group.add_argument("--no-events", action="store_true", help="drop the events there are")


def add_group_options(group: argparse._ArgumentGroup) -> None:
    """--group, --choose."""
    group.add_argument(
        "--group",
        type=_group,
        action="append",
        default=[],
        metavar="NAME=CLIPS",
        help="a group of the clips that match a pattern: row=lantern-* (many)",
    )
    group.add_argument(
        "--choose",
        choices=("all", "random"),
        help="what becomes of --group: all are used (default), or each instance draws one",
    )


def group_requests(args: argparse.Namespace) -> tuple[GroupRequest, ...]:
    """--group and --choose."""
    from kivel.sequences.retimed import GroupRequest

    if args.choose and not args.group:
        raise UsageError("--choose says how, --group NAME=CLIPS of what; pass both")
    return tuple(GroupRequest(name, pattern, args.choose or "all") for name, pattern in args.group)


def changes(args: argparse.Namespace) -> Changes:
    """What the arguments of `add_time_options` and `add_play_options` ask for."""
    from kivel.core.playback.changes import Changes

    return Changes(
        order=tuple(args.order or ()),
        direction=args.direction,
        hold_ends=args.hold_ends,
        fps=args.fps,
        hold=args.hold,
        holds=tuple(args.holds or ()),
        length=args.length,
        speed=args.speed,
        pace=args.pace,
        timebase=args.timebase,
        convert=args.convert,
        repeat=args.repeat,
        end=args.end,
        interpolation=args.interpolation,
        phase=args.phase,
        events=tuple(args.event),
        drop_events=args.no_events,
    )
