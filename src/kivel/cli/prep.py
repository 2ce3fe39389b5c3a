"""Prepare frames: a chain of steps, done in the order given, from frames as rendered or drawn to frames fit to pack."""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING, Any

from kivel.cli import options
from kivel.cli.report import Report
from kivel.core.errors import KivelError

if TYPE_CHECKING:
    from kivel.core.prepare.steps import WrittenStep

_EXAMPLES = """\
examples:
  kivel prep spore/ -o spore-matte/ --step matte --step "ramp #1b1f3b #a6452e@0.4 #ffc861 #fff6d8"
      grey on black becomes colour with alpha: cut out, then coloured by brightness

  kivel prep spore-matte/ -o spore-cell/ --step "anchor mass" --step "fit 96x96"
      the burst's own middle goes to the middle of the cell, then all is scaled in linear light

all steps: kivel prep --steps; one of them: kivel prep --steps anchor
"""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.epilog = _EXAMPLES
    options.add_sources(parser)
    group = parser.add_argument_group("frames")
    options.add_range(group)
    options.add_kind(group)
    group = parser.add_argument_group("steps")
    group.add_argument(
        "--step",
        action="append",
        required=True,
        metavar='"NAME ..."',
        help="what to do: a name, its arguments, key=value; give it several times for a chain",
    )
    group.add_argument("--steps", nargs="?", action=_ListSteps, metavar="NAME", help="list all steps, or explain one")
    options.add_output_options(parser, "DIR")
    options.add_compress_option(parser)
    options.add_general_options(parser)


class _ListSteps(argparse.Action):
    """Prints and ends, as --help does, whatever else is missing."""

    def __call__(self, parser: argparse.ArgumentParser, _: object, values: Any, option: object = None) -> None:  # noqa: ARG002
        from kivel.views.step_help import step_list, step_page

        try:
            text = step_page(values) if values else step_list()
        except KivelError as error:
            parser.error(str(error))
        print(text)
        parser.exit()


def run(args: argparse.Namespace) -> int:
    from kivel.cli.frame_output import write_frames
    from kivel.files.scratch import Scratch
    from kivel.making.preparing import image_loader, plan_of, prepared_sequence
    from kivel.sequences.opening import open_sources

    report = Report(args)
    steps = _written(args.step)
    settings = options.source_options(args, keep_float=True)
    plan = plan_of(steps, kind=args.kind, load_image=image_loader(settings.max_pixels))
    frames = open_sources(args.sources, settings)
    with Scratch() as scratch:
        with report.progress("measuring frames", plan.passes * len(frames.frames)) as advance:
            made = prepared_sequence(
                frames, plan, kind=args.kind, shelf=scratch, jobs=options.jobs(args), advance=advance
            )
        write_frames(
            args,
            report,
            made.frames,
            stem=frames.stem,
            clips=made.clips,
            notes=[*frames.notes, *made.notes],
            premultiplied=plan.premultiplied,
            more=lambda: {"steps": [step.text for step in steps]},
        )
    return 0


def _written(texts: list[str]) -> list[WrittenStep]:
    from kivel.core.prepare.steps import parse_step

    return [parse_step(text, where=f"--step {number}") for number, text in enumerate(texts, 1)]
