"""Change how clips play: rates, holds, order, direction, repeat, phase, pace, events; new clips from old ones."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING, Any

from kivel.cli import options, playback
from kivel.cli.report import Report, files_as_json
from kivel.core.errors import UsageError

if TYPE_CHECKING:
    from kivel.core.playback.changes import Changes
    from kivel.files.manifest.model import Manifest
    from kivel.sequences.retimed import RetimeRequest

_EXAMPLES = """\
examples:
  kivel retime moth.kivel.json --direction ping-pong --holds "4,2,2,2,8" --timebase 60 --event 0:flutter
      to and fro, the ends held longer, an event each time frame 0 begins to show

  kivel retime lantern.kivel.json --clip lantern --stagger 12 --group "row=lantern-*" --dry-run
      twelve lamps at evenly spread phases that do not blink together; shown, and not written
"""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.epilog = _EXAMPLES
    parser.add_argument("manifest", metavar="MANIFEST", help="NAME.kivel.json; it is changed in place")
    group = parser.add_argument_group("which clips")
    group.add_argument(
        "--clip", action="append", default=[], metavar="NAME", help="a name or a pattern, many (default: all clips)"
    )
    group.add_argument("--new", metavar="NAME", help="keep the clip, and give the changed copy this name")
    group.add_argument("--rename", metavar="NAME", help="give the clip another name")
    group.add_argument(
        "--row-clips", type=playback.names, metavar="A,B,C", help="a new clip for each row of the sheet, by these names"
    )
    group.add_argument("--remove", action="store_true", help="remove the clips named by --clip")
    playback.add_time_options(parser)
    playback.add_play_options(parser)
    group = parser.add_argument_group("many instances")
    group.add_argument("--stagger", type=options.whole(1), metavar="N", help="add N clips at evenly spread phases")
    group.add_argument(
        "--stagger-seed", type=options.whole(0), metavar="SEED", help="scatter their phases instead, by this seed"
    )
    playback.add_group_options(group)
    group = parser.add_argument_group("output")
    group.add_argument("--dry-run", action="store_true", help="show what would change, and write nothing")
    options.add_general_options(parser)


def run(args: argparse.Namespace) -> int:
    from kivel.files.manifest.parsing import read_manifest
    from kivel.files.manifest.text import manifest_text
    from kivel.files.safety import OutputSet
    from kivel.sequences.retimed import retimed
    from kivel.views.clip_changes import change_table

    report = Report(args)
    request = _request(args)
    path = Path(args.manifest)
    manifest = read_manifest(path)
    result = retimed(manifest, request)
    # What was edited by hand is read, and stands in the new file too: nothing is lost by replacing the old one.
    with OutputSet(force=True, is_ours=lambda _path: True, dry_run=args.dry_run) as out:
        out.add(path, [manifest_text(result.manifest).encode()])
    report.notes(result.notes)
    report.tables([change_table(result.pairs)] if result.pairs else [])
    report.written(out.written, {path.name: _described(result.manifest)}, dry_run=args.dry_run)
    report.document(
        {
            "files": files_as_json(out.written),
            "changes": [{"before": _plain(before), "after": _plain(after)} for before, after in result.pairs],
            "groups": [
                {"name": g.name, "members": list(g.members), "choose": g.choose} for g in result.manifest.groups
            ],
            "notes": list(result.notes),
        }
    )
    return 0


def _described(manifest: Manifest) -> str:
    clips = len(manifest.clips)
    text = "1 clip" if clips == 1 else f"{clips} clips"
    for group in manifest.groups:
        text += f', group "{group.name}" ({group.choose} of {len(group.members)})'
    return text


def _plain(clip: object) -> Any:
    from kivel.files.manifest.text import plain_value

    return plain_value(clip)


def _request(args: argparse.Namespace) -> RetimeRequest:
    from kivel.sequences.retimed import RetimeRequest

    if args.stagger_seed is not None and not args.stagger:
        raise UsageError("--stagger-seed says how, --stagger N how many; pass both")
    if args.convert and not args.timebase:
        raise UsageError("--convert rounds to a timebase; pass --timebase N too")
    changes = playback.changes(args)
    groups = playback.group_requests(args)
    if args.row_clips and (args.clip or args.new or args.rename or args.remove):
        raise UsageError("--row-clips makes clips of rows; choose others in a run of its own")
    if args.remove and (args.new or args.rename or args.stagger or _says_something(changes)):
        raise UsageError("--remove takes clips away; change others in a run of its own")
    if not (
        args.remove or args.row_clips or args.new or args.rename or args.stagger or groups or _says_something(changes)
    ):
        raise UsageError("nothing to change; see kivel retime --help, or kivel trace to look at what plays")
    return RetimeRequest(
        tuple(args.clip),
        changes,
        args.new,
        args.rename,
        args.remove,
        args.stagger or 0,
        args.stagger_seed,
        groups,
        args.row_clips or (),
    )


def _says_something(changes: Changes) -> bool:
    return changes != type(changes)()
