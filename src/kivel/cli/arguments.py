"""The command line of a command, from the declaration of its options."""

from __future__ import annotations

import argparse
import shlex
from collections.abc import Mapping, Sequence
from typing import Any

from kivel.cli.completion import completes
from kivel.making.options.option import Option, Options

__all__ = ["add_help", "add_options", "command_line", "given"]

_SHORT = {"out": ["-o"], "file": ["-f"]}
_DEST = "option:"
"""Before an option's name, so that none is taken for what the parser itself keeps."""


def add_options(parser: argparse.ArgumentParser, options: type[Options], *, positional: bool = True) -> None:
    """An argument for each option, in the groups that they were declared in; without those that are positional."""
    declared = [one for one in options.declared().values() if not one.direct and (positional or not one.positional)]
    # what is added to the parser itself is formatted to prove it, which takes a module more
    group = parser.add_argument_group("positional arguments")
    for one in declared:
        if one.positional:
            _add_positional(group, one)
    groups: dict[str, argparse._ArgumentGroup] = {}
    for one in declared:
        if not one.positional:
            if one.group not in groups:
                groups[one.group] = parser.add_argument_group(one.group)
            _add_option(groups[one.group], one)


def add_help(parser: argparse.ArgumentParser, options: type[Options]) -> None:
    """-h and --help with what is needed every day, and --help-all with all there is."""
    group = parser.add_argument_group("help")
    everyday = options.everyday
    more = " (the options of every day; --help-all: all of them)" if everyday else ""
    group.add_argument("-h", "--help", action=_Help, everyday=everyday, help=f"print this{more}")
    group.add_argument("--help-all", action=_Help, everyday=(), help="print every option")


class _Help(argparse.Action):
    """Prints and ends."""

    def __init__(self, option_strings: Sequence[str], dest: str, *, everyday: Sequence[str], help: str) -> None:  # noqa: ARG002
        super().__init__(option_strings, argparse.SUPPRESS, nargs=0, default=argparse.SUPPRESS, help=help)
        self._everyday = everyday

    def __call__(self, parser: argparse.ArgumentParser, *_: object) -> None:
        from shutil import get_terminal_size
        from textwrap import fill

        if self._everyday:
            _leave_out(parser, [*self._everyday, "help", "help-all", "json"])
        # examples stay as they are typed; this need not
        parser.description = fill(parser.description or "", get_terminal_size().columns - 2)
        parser.print_help()
        parser.exit()


def _leave_out(parser: argparse.ArgumentParser, everyday: Sequence[str]) -> None:
    """Hide all other options, and say in the first line that there are some."""
    positional = [
        f"[{action.metavar} ...]" if "(default:" in (action.help or "") else action.metavar
        for action in parser._actions
        if not action.option_strings
    ]
    out = next((str(action.metavar) for action in parser._actions if "--out" in action.option_strings), "")
    for action in parser._actions:
        names = {name.lstrip("-") for name in action.option_strings}
        if names and not names.intersection(everyday):
            action.help = argparse.SUPPRESS
    parser.usage = " ".join([parser.prog, *map(str, positional), *(["-o", out] if out else []), "[options]"])


def _add_positional(group: argparse._ArgumentGroup, one: Option[Any]) -> None:
    count = ("+" if one.needed else "*") if one.many else None if one.needed else "?"
    settings: dict[str, Any] = {"nargs": count} if count else {}
    group.add_argument(_DEST + one.name, metavar=one.form, help=_help(one), **settings)


def _add_option(group: argparse._ArgumentGroup, one: Option[Any]) -> None:
    names = [*_SHORT.get(one.name, ()), f"--{one.name}"]
    settings: dict[str, Any] = {"dest": _DEST + one.name, "help": _help(one), "default": argparse.SUPPRESS}
    if one.negatable:
        settings["action"] = argparse.BooleanOptionalAction
    elif one.is_flag:
        settings["action"] = "store_true"
    else:
        settings["metavar"] = one.form
        settings["action"] = "append" if one.repeats else _Once
        if one.bare:
            settings |= {"nargs": "?", "const": one.bare}
    completes(group.add_argument(*names, **settings), one)


class _Once(argparse.Action):
    """Refuses a second value, which would silently take the place of the first."""

    def __call__(self, _: object, namespace: argparse.Namespace, values: Any, option: object = None) -> None:  # noqa: ARG002
        before = getattr(namespace, self.dest, values)
        if before != values:
            raise argparse.ArgumentError(self, f"given twice, as {before} and as {values}; give it once")
        setattr(namespace, self.dest, values)


def _help(one: Option[Any]) -> str:
    default = f" (default: {one.shown})" if one.shown else ""
    return (one.help + default).strip().replace("%", "%%")


def given(args: argparse.Namespace) -> dict[str, Any]:
    """The options that the arguments give, by their names."""
    return {name.removeprefix(_DEST): value for name, value in vars(args).items() if name.startswith(_DEST)}


def command_line(name: str, options: type[Options], given: Mapping[str, Any]) -> str:
    """A command with its options as people type it.

    >>> from kivel.making.options.slice_options import SliceOptions
    >>> command_line("slice", SliceOptions, {"sources": ["old sheet.png"], "out": "frames", "columns": 7})
    "kivel slice 'old sheet.png' -o frames --columns 7"
    """
    declared = options.declared()
    words: list[str] = []
    for key, value in given.items():
        one = declared[key]
        written = "-o" if key == "out" else f"--{key}"
        for text in one.texts(value, typed=True):
            words += [text] if one.positional else [written] if one.is_flag else [written, text]
    return shlex.join(["kivel", name, *words])
