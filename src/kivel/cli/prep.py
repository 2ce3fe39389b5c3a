"""What `kivel prep` says, and the list of its steps."""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING, Any

from kivel.cli.frames import report_frames
from kivel.cli.report import Report
from kivel.cli.streams import say
from kivel.core.errors import KivelError

if TYPE_CHECKING:
    from kivel.making.frames.prep import PrepMade
    from kivel.making.options.prep_options import PrepOptions

__all__ = ["EXAMPLES", "add_more", "show"]

EXAMPLES = """\
examples:
  kivel prep spore/ -o spore-matte/ --step matte --step "ramp #1b1f3b #a6452e@0.4 #ffc861 #fff6d8"
      grey on black becomes colour with alpha: cut out, then coloured by brightness

  kivel prep spore-matte/ -o spore-cell/ --step "anchor mass" --step "fit 96x96"
      the burst's own middle goes to the middle of the cell, then all is scaled in linear light

all steps: kivel prep --steps; one of them: kivel prep --steps anchor
"""


def add_more(parser: argparse.ArgumentParser) -> None:
    """--steps, which makes nothing."""
    group = parser.add_argument_group("help on steps")
    group.add_argument("--steps", nargs="?", action=_ListSteps, metavar="NAME", help="list all steps, or explain one")


class _ListSteps(argparse.Action):
    """Prints and ends, as --help does, whatever else is missing."""

    def __call__(self, parser: argparse.ArgumentParser, _: object, values: Any, option: object = None) -> None:  # noqa: ARG002
        from kivel.views.step_help import step_list, step_page

        try:
            text = step_page(values) if values else step_list()
        except KivelError as error:
            parser.error(str(error))
        say(text)
        parser.exit()


def show(made: PrepMade, options: PrepOptions, report: Report) -> int:
    for line in made.measured:
        report.line(line)
    more = {"steps": list(made.steps), "measured": list(made.measured)}
    report_frames(report, options, made.manifest, made.files, made.notes, **more)
    return 0
