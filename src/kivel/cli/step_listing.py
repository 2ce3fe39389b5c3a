"""`kivel prep --steps`: the list of steps, or a page on one of them."""

from __future__ import annotations

import argparse
from typing import Any

from kivel.cli.streams import say
from kivel.core.errors import KivelError

__all__ = ["add_step_listing"]


def add_step_listing(parser: argparse.ArgumentParser) -> None:
    """--steps, which makes nothing."""
    group = parser.add_argument_group("help on steps")
    group.add_argument("--steps", nargs="?", action=_ListSteps, metavar="NAME")


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
