"""What somebody meant who wrote a word that is not known here: one rule for every place that takes words."""

from __future__ import annotations

from collections.abc import Callable, Iterable

__all__ = ["TRADE_WORDS", "did_you_mean", "meant"]

TRADE_WORDS: dict[str, tuple[str, ...]] = {
    "anchor": ("pivot",), "origin": ("pivot",), "bounce": ("direction", "alternate"), "centre": ("center",),
    "cols": ("columns",), "cadence": ("fps",), "clips": ("make-clip", "clip"), "dedupe": ("fold",),
    "delay": ("hold",), "duration": ("hold", "length"), "duplicates": ("fold",), "extrude": ("skirt",),
    "framerate": ("fps",), "frame-rate": ("fps",), "infinite": ("forever",), "interval": ("hold",),
    "loop": ("repeat",), "once": ("repeat",), "output": ("out",), "padding": ("gap", "margin"),
    "palette": ("colors",), "pingpong": ("alternate", "direction"), "ping-pong": ("alternate", "direction"),
    "power-of-two": ("pow2",), "resize": ("fit",), "rate": ("fps",), "rotate": ("turn",), "scale": ("fit",),
    "spacing": ("gap",), "speedup": ("speed",), "yoyo": ("direction", "alternate"),
}  # fmt: skip
"""Words of the trade, and what Kivel calls it: the first of them that is known where the word was written."""


def meant(word: str, known: Iterable[str]) -> str | None:
    """Return the one of `known` that was probably meant by `word`: by what the trade calls it, else by how it is spelt.

    >>> meant("padding", ["gap", "paging"]), meant("colums", ["columns", "rows"]), meant("rotate", ["range"])
    ('gap', 'columns', None)
    """
    from difflib import get_close_matches  # only somebody who mistyped waits for it

    names = {name.lstrip("-").replace("_", "-"): name for name in known}
    plain = word.strip().lower().lstrip("-").replace("_", "-")
    if plain in TRADE_WORDS:  # what is spelt alike means something else: of `rotate`, `range` is no guess
        return next((names[name] for name in TRADE_WORDS[plain] if name in names), None)
    return next(iter(get_close_matches(word, list(names.values()), n=1)), None)


def did_you_mean(
    word: str, known: Iterable[str], *, otherwise: str = "", written: Callable[[str], str] = str, sign: str = "; "
) -> str:
    """Return the end of a message: which of `known` was meant, as `written` there, or `otherwise`, after a `sign`.

    >>> did_you_mean("alternat", ["normal", "alternate"])
    '; did you mean alternate?'
    >>> did_you_mean("x", ["normal"], otherwise="see --steps")
    '; see --steps'
    """
    found = meant(word, known)
    text = f"did you mean {written(found)}?" if found else otherwise
    return f"{sign}{text}" if text else ""
