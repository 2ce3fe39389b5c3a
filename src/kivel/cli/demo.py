"""`kivel demo`: art is drawn, and a story is run on it."""

from __future__ import annotations

import argparse
import contextlib
import os
import shlex
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING, Any

from kivel.cli.again import run_again
from kivel.cli.arguments import add_options, given
from kivel.cli.demo_options import DemoOptions
from kivel.cli.report import Report, files_as_json
from kivel.cli.telling import run_command
from kivel.cli.word_parser import Parser
from kivel.core.wording import counted
from kivel.demo.art import ART, drawings
from kivel.demo.recipe_text import RECIPE_TEXT, edited
from kivel.demo.stories import SHORT_STORY, TOURS
from kivel.files.png.write import encode_png
from kivel.files.threads import in_order
from kivel.making.commands import command
from kivel.making.work import Work
from kivel.recipe.recipe_file import RECIPE

if TYPE_CHECKING:
    from collections.abc import Iterable

    from kivel.demo.art import Drawing
    from kivel.demo.stories import Story, StoryStep
    from kivel.files.output_set import OutputSet, Written
    from kivel.making.work import Work

__all__ = ["run"]


def run(args: argparse.Namespace, report: Report) -> int:
    options = DemoOptions.of(given(args), door="command")
    folder = Path(options.folder)
    stories = TOURS if options.all else {options.tour: TOURS[options.tour]} if options.tour else {"": SHORT_STORY}
    work = Work(report)
    try:
        written = _draw_all(options, work, folder, dict.fromkeys(name for one in stories.values() for name in one.art))
    finally:
        report.files += work.files
    report.line(f"Drew {counted(len(written), 'image')} of Mothlight Orchard, a made-up game, in {folder}")
    report.line(f"$ cd {shlex.quote(str(folder))}")
    os.environ.setdefault("COLUMNS", "110")
    with contextlib.chdir(folder):
        for name, story in stories.items():
            if name:
                report.line("")
                report.line(f"== {name}: {story.title}")
            _tell(story, options, report, work)
    lines = [f"kivel {step.line}" for story in stories.values() for step in story.steps]
    report.document({"files": files_as_json(written), "commands": lines})
    return 0


def _tell(story: Story, options: DemoOptions, report: Report, work: Work) -> None:
    for step in story.steps:
        for text in ("", f"# {step.why}", f"$ kivel {step.line}"):
            report.line(text)
        if step.edits:
            _edit(options, work)
        _run(step, options, report)
    for text in ("", *story.then):
        report.line(text)


def _draw_all(options: DemoOptions, work: Work, folder: Path, names: Iterable[str]) -> tuple[Written, ...]:

    def encoded(drawing: Drawing) -> dict[str, bytes]:
        return {path: b"".join(encode_png(image, compress="fast", palettes=False)) for path, image in drawing().items()}

    pictures = list(drawings(name for name in names if name in ART))
    with options.output_set(work) as out, work.progress("drawing", len(pictures)) as advance:
        for images in in_order(encoded, pictures, jobs=options.threads):
            for path, data in images.items():
                _may_replace(out, folder / path)
                out.add(folder / path, [data])
            advance()
        if "recipe" in names:
            _may_replace(out, folder / RECIPE)
            out.add(folder / RECIPE, [RECIPE_TEXT.encode()])
    return tuple(out.written)


def _may_replace(out: OutputSet, path: Path) -> None:
    """Let the files of an earlier run of the demo be replaced."""
    if path.is_file() and path.read_bytes() in _edited().values():
        out.may_replace(path)


@cache
def _edited() -> dict[str, bytes]:
    """The files that the demo changes, as they are then."""
    return {
        one.path: one.text.encode()
        if one.image is None
        else b"".join(encode_png(one.image, compress="fast", palettes=False))
        for one in edited()
    }


def _edit(options: DemoOptions, work: Work) -> None:
    with options.output_set(work) as out:
        for name, data in _edited().items():
            out.may_replace(Path(name))
            out.add(Path(name), [data])


def _run(step: StoryStep, options: DemoOptions, report: Report) -> None:
    """A step, as the command line would run it; what it prints is part of what the demo prints."""
    name, *words = shlex.split(step.line)
    parser = Parser(prog="kivel", allow_abbrev=False, add_help=False)
    add_options(parser, command(name).options)
    more: dict[str, Any] = {"jobs": options.jobs, "max-pixels": options.max_pixels}
    if options.force and "force" in command(name).options.declared():
        more["force"] = True
    args, behind = parser.parse_known_args(words)
    quiet = Report(as_json=False, quiet=report.is_silent)
    quiet.err = report.err
    try:
        if behind:
            run_again({**given(args), **more}, behind, quiet)
        else:
            run_command(name, {**given(args), **more}, quiet)
    finally:
        report.files += quiet.files
