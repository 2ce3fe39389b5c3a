"""Draw the art of "Mothlight Orchard", a made-up game, and run a full example on it, printing each command."""

from __future__ import annotations

import argparse
import contextlib
import os
import shlex
from pathlib import Path
from typing import TYPE_CHECKING

from kivel.cli import options
from kivel.cli.report import Report, files_as_json
from kivel.core.errors import KivelError

if TYPE_CHECKING:
    from kivel.demo.art import Drawing
    from kivel.files.safety import Written

_EXAMPLES = """\
examples:
  kivel demo
      draw and run everything in ./mothlight-orchard

  kivel demo try/orchard --json
      the same elsewhere, for a script: the files and the commands that ran
"""

_FOLDER = "mothlight-orchard"


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.epilog = _EXAMPLES
    parser.add_argument("folder", nargs="?", default=_FOLDER, metavar="DIR", help=f"where (default: ./{_FOLDER})")
    parser.add_argument("--force", action="store_true", help="overwrite files there that were edited")
    options.add_general_options(parser)
    parser.set_defaults(dry_run=False)


def run(args: argparse.Namespace) -> int:
    from kivel.demo.example import STEPS, WHERE_TO_LOOK

    report = Report(args)
    folder = Path(args.folder)
    written = _draw_all(args, report, folder)
    folders = sorted({file.path.relative_to(folder).parts[0] for file in written})
    report.line(f"Drew {len(written)} images in {folder}: {', '.join(folders)}")
    report.line(f"\n$ cd {shlex.quote(str(folder))}")
    with contextlib.chdir(folder):
        for step in STEPS:
            report.line(f"\n# {step.why}\n$ kivel {step.line}")
            _run(step.line, args)
    report.line(f"\n{WHERE_TO_LOOK}")
    report.document({"files": files_as_json(written), "commands": [f"kivel {step.line}" for step in STEPS]})
    return 0


def _draw_all(args: argparse.Namespace, report: Report, folder: Path) -> list[Written]:
    from kivel.demo.art import demo_art
    from kivel.files.png.write import encode_png
    from kivel.files.threads import in_order

    def encoded(drawing: Drawing) -> dict[str, bytes]:
        return {path: b"".join(encode_png(image, compress="small")) for path, image in drawing().items()}

    drawings = list(demo_art())
    with options.output_set(args) as out, report.progress("drawing", len(drawings)) as advance:
        for images in in_order(encoded, drawings, jobs=options.jobs(args)):
            for path, data in images.items():
                out.add(folder / path, [data])
            advance()
    return out.written


def _run(line: str, args: argparse.Namespace) -> None:
    """Run a step as the program itself would."""
    from kivel.cli.main import main

    words = shlex.split(line)
    flags = [flag for flag, wanted in (("--quiet", args.quiet or args.json), ("--verbose", args.verbose)) if wanted]
    if args.force and "-o" in words:
        flags.append("--force")
    os.environ.setdefault("COLUMNS", "110")
    code = main([*words, *flags])
    if code:
        raise KivelError(f"the step `kivel {line}` ended with exit code {code}")
