"""The command line of a command, from the declaration of its options."""

from __future__ import annotations

import argparse
import shlex
from collections.abc import Callable, Mapping, Sequence
from functools import partial
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


def add_help(parser: argparse.ArgumentParser, name: str, about: str, options: type[Options]) -> None:
    """-h and --help with the common options, and --help-all with all there is."""
    group = parser.add_argument_group("help")
    declared = options.declared().values()
    rare = ("jobs", "max-pixels", "layers-as", "exposure")
    everyday = options.everyday or [
        one.name for one in declared if not (one.positional or one.direct or one.name in rare)
    ]
    short = partial(_help, "short", name, about, options, everyday)
    group.add_argument("-h", "--help", action=_PrintsHelp, text=short)
    group.add_argument("--help-all", action=_PrintsHelp, text=partial(_help, "whole", name, about, options))


def _help(which: str, *words: Any) -> str:
    from kivel.cli import command_help  # for those who ask

    return command_help.short_help(*words) if which == "short" else command_help.whole_help(*words)


class _PrintsHelp(argparse.Action):
    """Prints and ends."""

    def __init__(self, option_strings: Sequence[str], dest: str, *, text: Callable[[], str]) -> None:  # noqa: ARG002
        super().__init__(option_strings, argparse.SUPPRESS, nargs=0, default=argparse.SUPPRESS)
        self._text = text

    def __call__(self, parser: argparse.ArgumentParser, *_: object) -> None:
        from kivel.cli.streams import say

        say(self._text())
        parser.exit()


def _add_positional(group: argparse._ArgumentGroup, one: Option[Any]) -> None:
    count = ("+" if one.needed else "*") if one.many else None if one.needed else "?"
    settings: dict[str, Any] = {"nargs": count} if count else {}
    group.add_argument(_DEST + one.name, metavar=one.form, **settings)


def _add_option(group: argparse._ArgumentGroup, one: Option[Any]) -> None:
    names = [*_SHORT.get(one.name, ()), f"--{one.name}"]
    settings: dict[str, Any] = {"dest": _DEST + one.name, "default": argparse.SUPPRESS}
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
            raise argparse.ArgumentError(self, f"given twice, as {before} and as {values}; use it once")
        setattr(namespace, self.dest, values)


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
