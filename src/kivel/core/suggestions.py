"""Describes what somebody meant who wrote a word that is not known here: one rule for every place that takes words."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Literal

from kivel.core.errors import option
from kivel.core.named_tuples import NamedTuple

__all__ = ["Guess", "WordKind", "did_you_mean", "guessed"]

WordKind = Literal["option", "command", "step", "value", "name"]
"""Says what kind of word was written; of names of people's own things the trade knows nothing."""

_LIKE_ENOUGH = 0.72
"""How alike two words are spelt, from 0 to 1, for one to be a guess of the other."""


class Guess(NamedTuple):
    """One of the known words, with a value if that belongs to it."""

    word: str
    value: str = ""


def guessed(word: str, known: Iterable[str], kind: WordKind = "name") -> Guess | None:
    """Return the one of `known` that was probably meant by `word`: by what the trade calls it, else by how it is spelt.

    >>> guessed("--pingpong", ["--gap", "--direction"], "option")
    Guess(word='--direction', value='alternate')
    >>> guessed("colums", ["columns", "rows"]), guessed("--rotate", ["--range"], "option")
    (Guess(word='columns', value=''), None)
    """
    from difflib import get_close_matches  # only somebody who mistyped waits for it

    from kivel.core.trade_words import TRADE, plain_word

    names = {plain_word(name): name for name in known}
    plain = plain_word(word)
    meaning = TRADE.get(plain) if kind != "name" else None
    if meaning:  # what is spelt alike means something else: of `rotate`, `range` is no guess
        texts = {
            "option": meaning.options, "value": meaning.values, "command": (meaning.command,), "step": (meaning.step,),
        }[kind]  # fmt: skip
        for text in texts:
            name, _, value = text.partition(" ")
            if name in names:
                return Guess(names[name], value)
        return None
    close = get_close_matches(plain, list(names), n=1, cutoff=_LIKE_ENOUGH)
    return Guess(names[close[0]]) if close else None


def did_you_mean(
    word: str,
    known: Iterable[str],
    *,
    kind: WordKind = "name",
    otherwise: str = "",
    written: Callable[[str], str] = str,
    sign: str = "; ",
) -> str:
    """Return the end of a message, after a `sign`: which of `known` was meant, as `written` there, or `otherwise`.

    What the trade means by the word may be found elsewhere, too.

    >>> did_you_mean("alternat", ["normal", "alternate"])
    '; did you mean alternate?'
    >>> from kivel.core.errors import spelled
    >>> spelled(did_you_mean("--trim", ["--gap"], kind="option"), "command")
    '; trim is a step of prep: kivel prep SRC -o DIR --step trim'
    >>> did_you_mean("x", ["normal"], otherwise="see --steps")
    '; see --steps'
    """
    found = guessed(word, known, kind)
    if found:
        value = f" {found.value}" if found.value and kind in ("option", "command") else ""
        text = f"did you mean {written(found.word)}{value}?"
    else:
        text = _elsewhere(word, kind) or otherwise
    return f"{sign}{text}" if text else ""


def _elsewhere(word: str, kind: WordKind) -> str:
    """Where the trade's word leads that is not known where it was written."""
    from kivel.core.trade_words import TRADE, plain_word

    plain = plain_word(word)
    meaning = TRADE.get(plain) if kind in ("option", "command", "step") else None
    if meaning is None:
        return ""
    if meaning.step and kind != "step":
        return f"{plain} is a step of prep: kivel prep SRC -o DIR {option('step', meaning.step)}"
    if meaning.command:
        return f"see kivel {meaning.command}"
    if meaning.options and kind != "option":
        name, _, value = meaning.options[0].partition(" ")
        return f"{plain} is an option: {option(name, value or None)}"
    return ""
