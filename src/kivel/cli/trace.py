"""Say what shows when: every frame, event, cycle and end at its exact time; at moments, or on a game's clock."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Iterable, Iterator, Sequence
from fractions import Fraction
from itertools import count
from pathlib import Path
from typing import TYPE_CHECKING, Any

from kivel.cli import options
from kivel.core.errors import UsageError

if TYPE_CHECKING:
    from kivel.core.playback.instances import Instance
    from kivel.core.playback.rendered import Rendered
    from kivel.formats.manifest.model import Manifest
    from kivel.views.rows import Column

_EXAMPLES = """\
examples:
  kivel trace moth.kivel.json --for 1s
      which frame begins to show at what time in the first second, with events and cycles

  kivel trace lantern.kivel.json --clip lantern --clock 60 --for 2s --format csv
      what each rendered frame of a game at 60 a second shows, and which steps it misses
"""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.epilog = _EXAMPLES
    parser.add_argument("manifest", metavar="MANIFEST", help="NAME.kivel.json")
    group = parser.add_argument_group("what")
    group.add_argument(
        "--clip", action="append", default=[], metavar="NAME", help="a name or a pattern, many (default: all clips)"
    )
    group.add_argument("--group", metavar="NAME", help="the clips of a group; of a random one each instance draws one")
    group.add_argument("--instances", type=options.whole(1), default=1, metavar="N", help="how many play (default: 1)")
    group.add_argument("--seed", type=options.whole(0), default=0, metavar="N", help="for what is drawn (default: 0)")
    group.add_argument("--random-phase", action="store_true", help="each instance starts at a tick that it draws")
    group.add_argument("--speed", type=options.notation("parse_rate"), default=Fraction(1), metavar="N", help="2, 1/2")
    group = parser.add_argument_group("when")
    group.add_argument(
        "--for",
        dest="span",
        type=options.notation("parse_time"),
        metavar="T",
        help="2s, 500ms, 1h (default: all of a finite clip, one cycle of another)",
    )
    way = group.add_mutually_exclusive_group()
    way.add_argument(
        "--at",
        type=options.notation("parse_time"),
        action="append",
        default=[],
        metavar="T",
        help="what shows at this moment (many)",
    )
    way.add_argument(
        "--clock",
        type=options.notation("parse_rate"),
        metavar="R",
        help="what each of R rendered frames a second shows",
    )
    way.add_argument("--manual", action="store_true", help="by hand: a step further for each line of standard input")
    group = parser.add_argument_group("how")
    group.add_argument(
        "--format",
        choices=("table", "csv", "json-lines"),
        default="table",
        help="default: table; times are exact fractions of a second in the others",
    )
    options.add_general_options(parser)


def run(args: argparse.Namespace) -> int:
    from kivel.formats.manifest.read import read_manifest

    manifest = read_manifest(Path(args.manifest))
    instances = _instances(args, manifest)
    if args.manual:
        return _by_hand(args, instances)
    if args.at:
        if args.span is not None:
            raise UsageError("--for is a span, --at are moments; give one of them")
        _print(args, _moment_columns(args), _moments(instances, sorted(args.at)))
        return 0
    if args.clock:
        return _on_clock(args, instances)
    _print(args, _happening_columns(args), _happenings(args, instances))
    return 0


def _instances(args: argparse.Namespace, manifest: Manifest) -> list[Instance]:
    from kivel.core.playback.instances import instances_of
    from kivel.formats.retiming import chosen_clips

    pick = None
    if args.group:
        if args.clip:
            raise UsageError("--group names clips; give --clip or --group")
        group = next((group for group in manifest.groups if group.name == args.group), None)
        if group is None:
            names = ", ".join(group.name for group in manifest.groups)
            raise UsageError(
                f"there is no group {args.group!r}; " + (f"groups: {names}" if names else "there are none")
            )
        clips = [clip for name in group.members for clip in manifest.clips if clip.name == name]
        pick = group.name if group.choose == "random" else None
    else:
        clips = chosen_clips(manifest.clips, args.clip)
    if not clips:
        raise UsageError(f"{args.manifest} has no clips; make one with kivel retime --new NAME --order 0-7")
    return instances_of(
        clips, count=args.instances, seed=args.seed, pick=pick, random_phase=args.random_phase, speed=args.speed
    )


def _columns(args: argparse.Namespace, *own: tuple[str, str, int]) -> list[Column]:
    from kivel.views.rows import Column

    instance = [("instance", "instance" if args.instances > 1 else "", 8)]
    who = [*instance, ("clip", "clip", 12)]
    return [Column(*each) for each in [("time", "s", 10), ("seconds", "", 0), *who, *own]]


def _happening_columns(args: argparse.Namespace) -> list[Column]:
    return _columns(
        args, ("what", "what", 5), ("cycle", "cycle", 5), ("step", "step", 4), ("frame", "frame", 5),
        ("name", "event", 8),
    )  # fmt: skip


def _moment_columns(args: argparse.Namespace) -> list[Column]:
    return _columns(
        args, ("cycle", "cycle", 5), ("step", "step", 4), ("frame", "frame", 5), ("fraction", "through hold", 12),
        ("following", "blends to", 9), ("weight", "weight", 8), ("ended", "ended", 5),
    )  # fmt: skip


def _row(instance: Instance, time: Fraction) -> dict[str, Any]:
    clip = instance.player.clip.name
    return {"time": time, "seconds": float(time), "instance": instance.number, "clip": clip}


def _happenings(args: argparse.Namespace, instances: list[Instance]) -> Iterator[dict[str, Any]]:
    from kivel.core.playback.instances import happenings_of

    end, with_end = _end(args, instances)
    for instance, happening in happenings_of(instances, Fraction(0), None if with_end else end):
        if with_end and happening.time > end:
            return
        if with_end and happening.time == end and happening.kind in ("show", "event") and not _is_over(instance, end):
            continue
        row = _row(instance, happening.time) | {"what": happening.kind, "cycle": happening.cycle}
        if happening.kind in ("show", "event"):
            row |= {"step": happening.step, "frame": happening.frame}
        if happening.kind == "show" and happening.frame is None:
            row |= {"what": "none"}
        yield row | ({"name": happening.name} if happening.name else {})


def _is_over(instance: Instance, time: Fraction) -> bool:
    length = instance.player.length
    return length is not None and length <= time


def _end(args: argparse.Namespace, instances: list[Instance]) -> tuple[Fraction, bool]:
    """Until when; and whether what ends just then is told too, as it is where nobody named a span."""
    if args.span is not None:
        return args.span, False
    lengths = [
        player.cycle_length if player.length is None else player.length
        for player in (each.player for each in instances)
    ]
    return max(lengths), True


def _moments(instances: list[Instance], times: Iterable[Fraction]) -> Iterator[dict[str, Any]]:
    for time in times:
        for instance in instances:
            moment = instance.player.at(time)
            row = _row(instance, time) | {"cycle": moment.cycle, "step": moment.step, "frame": moment.frame}
            row |= {"fraction": moment.fraction, "ended": moment.ended}
            if moment.weight:
                row |= {"following": moment.following, "weight": moment.weight}
            yield row


def _on_clock(args: argparse.Namespace, instances: list[Instance]) -> int:
    from kivel.core.playback.rendered import rendered_steps
    from kivel.views.rows import Column

    end, _ = _end(args, instances)
    times = (number / args.clock for number in count())

    def rows() -> Iterator[dict[str, Any]]:
        for number, time in enumerate(times):
            if time >= end and number:
                return
            yield from ({"rendered": number} | row for row in _moments(instances, [time]))

    said = [
        f'clip "{instance.player.clip.name}": {line}'
        for instance in {each.player.clip.name: each for each in instances}.values()
        for line in _unevenness(rendered_steps(instance.player, args.clock), args.clock)
    ]
    _print(args, [Column("rendered", "rendered", 8), *_moment_columns(args)], rows(), said)
    return 0


def _unevenness(steps: list[Rendered], clock: Fraction) -> list[str]:
    """What a game at this clock misses of a clip, or shows unevenly."""
    lines = []
    for text, numbers in (
        ("never seen", [each.step for each in steps if each.most == 0]),
        ("missed in some cycles", [each.step for each in steps if each.least == 0 < each.most]),
    ):
        if numbers:
            lines.append(f"at {clock} a second {text}, shorter than a rendered frame: {_steps(numbers)}")
    uneven = [each for each in steps if each.least != each.most and each.most and each.least]
    for counts in sorted({(each.least, each.most) for each in uneven}):
        numbers = [each.step for each in uneven if (each.least, each.most) == counts]
        lines.append(f"at {clock} a second {counts[0]} or {counts[1]} rendered frames by turns: {_steps(numbers)}")
    return lines or [f"at {clock} a second every step shows evenly, for as many rendered frames each time"]


def _steps(numbers: list[int]) -> str:
    from kivel.core.playback.notation import format_order

    return f"step{'s' if len(numbers) > 1 else ''} {format_order(numbers)}"


def _by_hand(args: argparse.Namespace, instances: list[Instance]) -> int:
    """What shows at first; then, for each line that comes in, a step further."""
    if len(instances) > 1:
        names = ", ".join(dict.fromkeys(each.player.clip.name for each in instances))
        raise UsageError(f"--manual plays one clip; say which by --clip: {names}")
    _print(args, _happening_columns(args), _steps_by_hand(instances[0]))
    return 0


def _steps_by_hand(instance: Instance) -> Iterator[dict[str, Any]]:
    happenings = instance.player.happenings()
    waiting: list[dict[str, Any]] = []
    shown = 0
    for happening in happenings:
        if happening.kind == "show" and shown:
            yield from waiting
            waiting = []
            if not sys.stdin.readline():
                return
        shown += happening.kind == "show"
        row = _row(instance, happening.time) | {"what": happening.kind, "cycle": happening.cycle}
        row |= {"step": happening.step, "frame": happening.frame} if happening.step is not None else {}
        waiting.append(row | ({"name": happening.name} if happening.name else {}))
    yield from waiting


def _print(
    args: argparse.Namespace, columns: list[Column], rows: Iterable[dict[str, Any]], notes: Sequence[str] = ()
) -> None:
    """The rows as they come, and what is to be said of them all."""
    from kivel.views.rows import rows_as

    if args.quiet:
        return
    if args.json:
        print('{"rows":')
    for line in rows_as("json" if args.json else args.format, columns, rows):
        print(line, flush=args.manual)
    if args.json:
        print(f', "notes": {json.dumps(list(notes), ensure_ascii=False)}}}')
    elif args.format == "table":
        for note in notes:
            print(note)
    else:
        for note in notes:
            print(f"note: {note}", file=sys.stderr)
