"""The help of a command on one screen, and all of its options by group; that of the program itself."""

from __future__ import annotations

import re
from shutil import get_terminal_size
from textwrap import wrap

from kivel.cli.examples import EXAMPLES, NOTES

TYPE_CHECKING = False  # typing itself takes a tenth of the time to --help
if TYPE_CHECKING:
    from collections.abc import Iterable, Mapping, Sequence
    from typing import Any

    from kivel.making.options.option import Option, Options

__all__ = ["option_words", "program_help", "sentence", "short_help", "trade_words_of", "usage", "whole_help"]

Row = tuple[str, str]
"""How an option is written, and the text about it."""

_TEXT_AT = 22
_MOST_COLUMNS = 100
_ALSO = 5
_JSON: Row = ("--json", "print the result as one JSON document")
_ABOUT_OUTPUT: tuple[Row, ...] = (
    _JSON,
    ("--json-schema", "print the JSON Schema of that document, and nothing else"),
    ("-q, --quiet", "print errors only"),
    ("-v, --verbose", "show where in Kivel a bug is"),
)
_ABOUT_HELP: tuple[Row, ...] = (
    ("-h, --help", "print the common options and two examples"),
    ("--help-all", "print all options"),
)


def program_help(groups: Mapping[str, Mapping[str, str]]) -> str:
    """Every command with what it does, in the order of the work."""
    lines = ["usage: kivel COMMAND ...", "", "Animation frames into sheets and back, with exact timing, for games.", ""]
    for title, commands in groups.items():
        lines += [f"{title}:", *(f"  {name:<9} {about}" for name, about in commands.items())]
    return "\n".join(
        (
            *lines,
            "",
            "kivel COMMAND --help      common options and examples of a command",
            "kivel help WORD           what Kivel calls something: kivel help ping-pong",
            "kivel --version           print the version",
            "kivel --completion SHELL  print a script that completes commands in bash, zsh or fish",
            "",
            "Start with: kivel demo",
        )
    )


def short_help(name: str, about: str, options: type[Options], everyday: Sequence[str]) -> str:
    """The common options in the order of the work, and examples."""
    declared = options.declared()
    rows = [_row(one, short=True) for one in declared.values() if one.positional]
    common = [_row(declared[each], short=True) for each in everyday if each in declared]
    if name == "prep":
        common.insert(2, _STEPS)
    count = sum(not (one.positional or one.direct) for one in declared.values())
    parts = [
        usage(name, options),
        *_paragraph(about),
        "",
        *_table(rows),
        "",
        "common options:",
        *_table([*common, _JSON]),
        "",
        *_examples(name),
        f"kivel {name} --help-all: all {count} options; kivel help WORD: what Kivel calls something",
    ]
    return "\n".join(parts)


_STEPS: Row = ("--steps [NAME]", "list all steps of prep, or explain one")


def whole_help(name: str, about: str, options: type[Options]) -> str:
    """Every option by group, with the trade's words for it."""
    groups: dict[str, list[Row]] = {}
    for one in options.declared().values():
        if not one.direct:
            groups.setdefault("" if one.positional else one.group, []).append(_row(one, short=False))
    if name == "prep":
        groups["help on the steps of prep"] = [_STEPS]
    groups["output format"] = list(_ABOUT_OUTPUT)
    groups["help"] = list(_ABOUT_HELP)
    lines = [usage(name, options), *_paragraph(about)]
    for title, rows in groups.items():
        lines += ["", *([f"{title}:"] if title else []), *_table(rows)]
    return "\n".join((*lines, "", *_examples(name), *_paragraph(NOTES.get(name, ""))[1:])).rstrip()


def usage(name: str, options: type[Options]) -> str:
    """`usage: kivel sheet SRC... -o NAME.png [options]`."""
    declared = options.declared()
    words = [_asked(one) for one in declared.values() if one.positional]
    out = declared.get("out")
    if out is not None:
        words.append(f"[-o {out.form}]" if out.shown else f"-o {out.form}")
    return " ".join(("usage: kivel", name, *words, "[options]"))


def _asked(one: Option[Any]) -> str:
    many = f"{one.form}..." if one.many else one.form
    return f"[{many}]" if one.shown else many


def option_words(one: Option[Any]) -> str:
    """How an option is written: `-o FILE, --out FILE`."""
    if one.positional:
        return f"{one.form}..." if one.many else one.form
    value = "" if one.is_flag else f" [{one.form}]" if one.bare else f" {one.form}"
    short = {"out": "-o", "file": "-f"}.get(one.name)
    return ", ".join(f"{written}{value}" for written in (short, f"--{one.name}") if written) + (
        f", --no-{one.name}" if one.negatable else ""
    )


def _short_words(one: Option[Any]) -> str:
    words = option_words(one).partition(", ")[0]
    return words if len(words) < _TEXT_AT - 3 else re.sub(r"\|.*", "|...", words)


def sentence(text: str) -> str:
    """The first sentence of a help text."""
    return re.split(r"; | \(many\)", text)[0]


def _row(one: Option[Any], *, short: bool) -> Row:
    text = sentence(one.help) if short else one.help
    default = f" (default: {one.shown})" if one.shown else ""
    also = [] if short else trade_words_of(one)
    return _short_words(one) if short else option_words(one), text + default + (
        f" [also: {', '.join(also)}]" if also else ""
    )


def trade_words_of(one: Option[Any]) -> list[str]:
    """Return what the trade calls an option, so that a search for that word finds it."""
    from kivel.core.trade_words import TRADE

    found: list[str] = []
    for word, meaning in TRADE.items():
        plain = word.replace("-", "")
        if any(text.split()[0] == one.name for text in meaning.options) and not any(
            plain in seen.replace("-", "") for seen in (one.name, one.help, *found)
        ):
            found.append(word)
    return found[:_ALSO]


def _width() -> int:
    return min(get_terminal_size().columns, _MOST_COLUMNS) - 1


def _paragraph(text: str) -> list[str]:
    return ["", *wrap(text, _width(), break_on_hyphens=False)] if text else []


def _table(rows: Iterable[Row]) -> list[str]:
    lines = []
    for words, text in rows:
        told = wrap(text, _width() - _TEXT_AT, break_on_hyphens=False) or [""]
        first = f"  {words}"
        if len(first) + 2 > _TEXT_AT:
            lines.append(first)
        else:
            lines.append(f"{first:<{_TEXT_AT}}{told.pop(0)}".rstrip())
        lines += [f"{'':{_TEXT_AT}}{line}" for line in told]
    return lines


def _examples(name: str) -> list[str]:
    lines = ["examples:"]
    for one in EXAMPLES[name]:
        lines += [f"  {one.line}", *wrap(one.result, _width(), initial_indent=" " * 6, subsequent_indent=" " * 6), ""]
    return lines
