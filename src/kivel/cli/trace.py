"""Say what shows when: every frame, event, cycle and end at its exact time; at moments, or on a game's clock."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Iterable, Mapping, Sequence
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, Any

from kivel.cli import options
from kivel.core.errors import UsageError

if TYPE_CHECKING:
    from kivel.core.playback.instances import Instance
    from kivel.files.manifest.model import Manifest
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
    from kivel.files.manifest.parsing import read_manifest
    from kivel.views import trace_rows as tracing

    manifest = read_manifest(Path(args.manifest))
    instances = _instances(args, manifest)
    if args.at and args.span is not None:
        raise UsageError("--for is a span, --at are moments; give one of them")
    columns: tuple[Column, ...] = tracing.HAPPENINGS
    notes: list[str] = []
    if args.manual:
        if len(instances) > 1:
            names = ", ".join(dict.fromkeys(each.player.clip.name for each in instances))
            raise UsageError(f"--manual plays one clip; say which by --clip: {names}")
        rows = tracing.rows_by_hand(instances[0], lambda: bool(sys.stdin.readline()))
    elif args.at:
        columns, rows = tracing.MOMENTS, tracing.moment_rows(instances, sorted(args.at))
    elif args.clock:
        columns, rows = tracing.RENDERED, tracing.rendered_rows(instances, args.clock, args.span)
        notes = tracing.clock_lines(instances, args.clock)
    else:
        rows = tracing.happening_rows(instances, args.span)
    _print(args, tracing.columns_for(columns, instances), rows, notes)
    return 0


def _instances(args: argparse.Namespace, manifest: Manifest) -> list[Instance]:
    from kivel.core.playback.instances import instances_of
    from kivel.sequences.retimed import chosen_clips

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


def _print(
    args: argparse.Namespace, columns: Sequence[Column], rows: Iterable[Mapping[str, Any]], notes: Sequence[str] = ()
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
