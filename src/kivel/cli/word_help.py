"""`kivel help WORD`: the help of a command, or what Kivel calls a word of the trade."""

from __future__ import annotations

from collections.abc import Sequence

from kivel.cli.streams import say
from kivel.core.trade_words import TRADE, TradeWord, plain_word

__all__ = ["help_on"]


def help_on(words: Sequence[str], commands: Sequence[str]) -> list[str]:
    """Print what there is to say of a word; or return the command line that prints the help of a command or a step."""
    from kivel.core.prepare.table import STEPS

    word = plain_word(" ".join(words))
    meaning = TRADE.get(word)
    if word in commands:
        return [word, "--help"]
    if meaning is None and word in STEPS:
        return ["prep", "--steps", word]
    if meaning is None:
        meaning = _option(word)
    lines = _lines(word, meaning) if meaning else _unknown(word, commands)
    say("\n".join(lines))
    return []


def _option(word: str) -> TradeWord | None:
    """An option by its own name."""
    return TradeWord((word,)) if _commands_with(word) else None


def _lines(word: str, meaning: TradeWord) -> list[str]:
    lines = [f"{word}: {meaning.said}" if meaning.said else f"{word}:"]
    for text in meaning.options:
        name, _, value = text.partition(" ")
        commands = _commands_with(name)
        if commands:
            lines.append(f"  --{name}{f' {value}' if value else ''}: {_help_of(name)}")
            lines.append(f"      in kivel {', '.join(commands)}")
    if meaning.step:
        lines.append(f"  a step of prep: kivel prep SRC -o DIR --step {_quoted(meaning.step)}")
    if meaning.command:
        lines.append(f"  kivel {meaning.command}")
    if len(lines) == 1 and meaning.values:
        lines.append(f"  written as {' or '.join(meaning.values)}")
    return lines


def _quoted(text: str) -> str:
    return f'"{text}"' if " " in text else text


def _commands_with(name: str) -> list[str]:
    from kivel.making.commands import COMMANDS, command

    return [one for one in COMMANDS if name in command(one).options.declared()]


def _help_of(name: str) -> str:
    from kivel.making.commands import command

    option = command(_commands_with(name)[0]).options.declared()[name]
    return option.help or option.kind.form


def _unknown(word: str, commands: Sequence[str]) -> list[str]:
    from difflib import get_close_matches

    from kivel.making.commands import COMMANDS, command

    options = {name for one in COMMANDS for name in command(one).options.declared()}
    close = get_close_matches(word, [*commands, *TRADE, *sorted(options)], n=3, cutoff=0.7)
    near = f"; near it: {', '.join(close)}" if close else ""
    return [
        f"Kivel has no word {word!r}{near}",
        "kivel --help lists the commands, kivel COMMAND --help-all the options",
    ]
