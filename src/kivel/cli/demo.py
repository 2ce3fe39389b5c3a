"""`kivel demo`: the art drawn, and a full example run on it."""

from __future__ import annotations

import argparse
import contextlib
import os
import shlex
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING, Any

from kivel.cli.arguments import command_line, given
from kivel.cli.demo_options import DemoOptions
from kivel.cli.report import Report, files_as_json
from kivel.cli.telling import run_command
from kivel.demo.art import demo_art
from kivel.demo.example import EXAMPLE, WHERE_TO_LOOK
from kivel.demo.recipe_text import RECIPE_TEXT, edited
from kivel.files.png.write import encode_png
from kivel.files.threads import in_order
from kivel.making.commands import command
from kivel.making.work import Work
from kivel.recipe.recipe_file import RECIPE

if TYPE_CHECKING:
    from kivel.demo.art import Drawing
    from kivel.demo.example import ExampleStep
    from kivel.files.output_set import OutputSet, Written
    from kivel.making.work import Work

__all__ = ["run"]


def run(args: argparse.Namespace, report: Report) -> int:
    options = DemoOptions.of(given(args), door="command")
    folder = Path(options.folder)
    work = Work(report)
    try:
        written = _draw_all(options, work, folder)
    finally:
        report.files += work.files
    folders = sorted({file.path.relative_to(folder).parts[0] for file in written})
    report.line(f"Drew {len(written)} images in {folder}: {', '.join(folders)}")
    report.line("")
    report.line(f"$ cd {shlex.quote(str(folder))}")
    os.environ.setdefault("COLUMNS", "110")
    lines = [_written(step) for step in EXAMPLE]
    with contextlib.chdir(folder):
        for step, line in zip(EXAMPLE, lines, strict=True):
            for text in ("", f"# {step.why}", f"$ {line}"):
                report.line(text)
            if step.edits:
                _edit(options, work)
            _run(step, options, report)
    for text in ("", *WHERE_TO_LOOK.splitlines()):
        report.line(text)
    report.document({"files": files_as_json(written), "commands": lines})
    return 0


def _written(step: ExampleStep) -> str:
    return command_line(step.command, command(step.command).options, step.options)


def _draw_all(options: DemoOptions, work: Work, folder: Path) -> tuple[Written, ...]:

    def encoded(drawing: Drawing) -> dict[str, bytes]:
        return {path: b"".join(encode_png(image, compress="small")) for path, image in drawing().items()}

    drawings = list(demo_art())
    with options.output_set(work) as out, work.progress("drawing", len(drawings)) as advance:
        for images in in_order(encoded, drawings, jobs=options.threads):
            for path, data in images.items():
                _may_replace(out, folder / path)
                out.add(folder / path, [data])
            advance()
        _may_replace(out, folder / RECIPE)
        out.add(folder / RECIPE, [RECIPE_TEXT.encode()])
    return tuple(out.written)


def _may_replace(out: OutputSet, path: Path) -> None:
    """What an earlier run of the demo left there is its own."""
    if path.is_file() and path.read_bytes() in _edited().values():
        out.may_replace(path)


@cache
def _edited() -> dict[str, bytes]:
    """The files that the demo changes, as they are then."""
    return {
        one.path: one.text.encode() if one.image is None else b"".join(encode_png(one.image, compress="small"))
        for one in edited()
    }


def _edit(options: DemoOptions, work: Work) -> None:
    with options.output_set(work) as out:
        for name, data in _edited().items():
            out.may_replace(Path(name))
            out.add(Path(name), [data])


def _run(step: ExampleStep, options: DemoOptions, report: Report) -> None:
    """A step, as the command line would run it; what it says is part of what the demo says."""
    more: dict[str, Any] = {"jobs": options.jobs, "max-pixels": options.max_pixels}
    if options.force and "force" in command(step.command).options.declared():
        more["force"] = True
    quiet = Report(as_json=False, quiet=report.is_silent)
    quiet.err = report.err
    try:
        run_command(step.command, {**step.options, **more}, quiet)
    finally:
        report.files += quiet.files
