"""The command line of a command, from the declaration of its options."""

from __future__ import annotations

import argparse
import shlex
from collections.abc import Mapping
from typing import Any

from kivel.making.options.option import Option, Options

__all__ = ["add_options", "command_line", "given"]

_DEST = "option:"
"""Before an option's name, so that none is taken for what the parser itself keeps."""


def add_options(parser: argparse.ArgumentParser, options: type[Options]) -> None:
    """An argument for each option, in the groups that they were declared in."""
    groups: dict[str, argparse._ArgumentGroup] = {}
    for one in options.declared().values():
        if one.direct:
            continue
        if one.positional:
            _add_positional(parser, one)
            continue
        if one.group not in groups:
            groups[one.group] = parser.add_argument_group(one.group)
        _add_option(groups[one.group], one)


def _add_positional(parser: argparse.ArgumentParser, one: Option[Any]) -> None:
    count = ("+" if one.needed else "*") if one.many else None if one.needed else "?"
    settings: dict[str, Any] = {"nargs": count} if count else {}
    parser.add_argument(_DEST + one.name, metavar=one.form, help=_help(one), **settings)


def _add_option(group: argparse._ArgumentGroup, one: Option[Any]) -> None:
    names = ["-o", "--out"] if one.name == "out" else [f"--{one.name}"]
    settings: dict[str, Any] = {"dest": _DEST + one.name, "help": _help(one), "default": argparse.SUPPRESS}
    if one.negatable:
        settings["action"] = argparse.BooleanOptionalAction
    elif one.is_flag:
        settings["action"] = "store_true"
    else:
        settings["metavar"] = one.form
        if one.repeats:
            settings["action"] = "append"
        if one.bare:
            settings |= {"nargs": "?", "const": one.bare}
    group.add_argument(*names, **settings)


def _help(one: Option[Any]) -> str:
    default = f" (default: {one.shown})" if one.shown else ""
    return (one.help + default).strip().replace("%", "%%")


def given(args: argparse.Namespace) -> dict[str, Any]:
    """The options that the arguments give, by their names."""
    return {name.removeprefix(_DEST): value for name, value in vars(args).items() if name.startswith(_DEST)}


def command_line(name: str, options: type[Options], given: Mapping[str, Any]) -> str:
    """A command with its options as people type it.

    >>> from kivel.making.slice import SliceOptions
    >>> command_line("slice", SliceOptions, {"source": "old sheet.png", "out": "frames", "columns": 7})
    "kivel slice 'old sheet.png' -o frames --columns 7"
    """
    declared = options.declared()
    words: list[str] = []
    for key, value in given.items():
        one = declared[key]
        written = "-o" if key == "out" else f"--{key}"
        for text in one.texts(value):
            words += [text] if one.positional else [written] if one.is_flag else [written, text]
    return shlex.join(["kivel", name, *words])
