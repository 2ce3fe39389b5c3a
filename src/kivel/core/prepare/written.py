"""Steps, layers and tiles as people write them: `name argument key=value flag`, on a command line or in a recipe."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import Any

from kivel.core.errors import NEW_LINE, UsageError
from kivel.core.named_tuples import NamedTuple
from kivel.core.prepare.parameters import REQUIRED, NamedFile, Parameter
from kivel.core.suggestions import did_you_mean
from kivel.core.wording import printable

__all__ = ["Word", "moved_files", "moved_source", "parse_source", "parse_values", "pointing_at", "words_of"]

_WORD = re.compile(r"""(?:[^\s"']|"[^"]*"|'[^']*')+""")
_QUOTED = re.compile(r""""([^"]*)"|'([^']*)'""")
_KEY = re.compile(r"([A-Za-z][A-Za-z-]*)=(.*)", re.DOTALL)


class Word(NamedTuple):
    """A word without its quotes, and where it is in the text."""

    text: str
    start: int
    end: int


def words_of(text: str) -> list[Word]:
    """The words of a text; quotes keep words with spaces together.

    >>> [word.text for word in words_of('distort by="my swell.png" strength=4')]
    ['distort', 'by=my swell.png', 'strength=4']

    Raises
    ------
    UsageError
        If a quote is not closed.
    """
    words = [Word(_unquoted(match[0]), *match.span()) for match in _WORD.finditer(text)]
    rest = _WORD.sub("", text).strip()
    if rest:
        raise pointing_at(text, text.index(rest[0]), len(text), f"a quote ({rest[0]}) is not closed")
    return words


def _unquoted(text: str) -> str:
    return _QUOTED.sub(lambda match: match[1] if match[1] is not None else match[2], text)


def pointing_at(text: str, start: int, end: int, message: str) -> UsageError:
    """An error with the text below it and a mark under what is wrong."""
    before, meant = printable(text[:start]), printable(text[start:end])
    mark = " " * len(before) + "^" * max(1, len(meant))
    return UsageError(NEW_LINE.join((message, f"  {text}", f"  {mark}")))


def parse_values(text: str, words: Sequence[Word], parameters: Sequence[Parameter], *, name: str) -> dict[str, Any]:
    """The value of each parameter, by its Python name; those that are not there have their defaults.

    Raises
    ------
    UsageError
        Pointing at the word: a value that its parameter cannot read, a name that no parameter has, one that is there
        twice, or a value that is missing.
    """
    found: dict[str, Any] = {}
    for word, parameter, value in _assigned(text, words, parameters, name):
        try:
            read = True if value is None else parameter.read(value)
        except UsageError as error:
            raise pointing_at(text, word.start, word.end, f"{name}: {parameter.name}: {error}") from error
        if parameter.many:
            found[parameter.name] = (*found.get(parameter.name, ()), read)
        elif parameter.name in found:
            raise pointing_at(text, word.start, word.end, f"{name}: {parameter.name} is there twice")
        else:
            found[parameter.name] = read
    for parameter in parameters:
        if parameter.default is REQUIRED and parameter.name not in found:
            raise pointing_at(text, len(text), len(text) + 1, f"{name} needs {_asked(parameter)}: {parameter.help}")
    return {p.name.replace("-", "_"): found.get(p.name, p.default) for p in parameters}


def _assigned(
    text: str, words: Sequence[Word], parameters: Sequence[Parameter], name: str
) -> Iterator[tuple[Word, Parameter, str | None]]:
    """Each word with the parameter that it is for and the text of its value; None for a flag that is alone."""
    known = {parameter.name: parameter for parameter in parameters}
    waiting = [parameter for parameter in parameters if parameter.positional]
    for word in words:
        parameter, value = _meant(text, word, known, waiting, name)
        if parameter in waiting and not parameter.many:
            waiting.remove(parameter)
        yield word, parameter, value


def parse_source(text: str, parameters: Sequence[Parameter]) -> tuple[str, dict[str, Any]]:
    """Read `SRC key=value ...`: a source, which may have spaces in its name, and what follows it.

    >>> from kivel.core.prepare.parameters import number
    >>> parse_source("my glow/ opacity=0.5", [number("opacity", "", least=0, most=1, default=1.0)])
    ('my glow/', {'opacity': 0.5})

    Raises
    ------
    UsageError
        Pointing at the word that is wrong.
    """
    if "=" not in text:
        return text, parse_values(text, [], parameters, name=text)
    words = words_of(text)
    first = _first_value(words, parameters)
    if not first:
        raise UsageError(f"expected a source before the values, found {text!r}")
    source = _unquoted(text[: words[first - 1].end]).strip()
    return source, parse_values(text, words[first:], parameters, name=source)


def _first_value(words: Sequence[Word], parameters: Sequence[Parameter]) -> int:
    """Where the values begin that follow a source."""
    flags = {parameter.name for parameter in parameters if parameter.is_flag}
    first = len(words)
    while first > 0 and (_KEY.fullmatch(words[first - 1].text) or words[first - 1].text in flags):
        first -= 1
    return first


def moved_source(text: str, parameters: Sequence[Parameter], move: Callable[[str], str]) -> str:
    """`SRC key=value ...` as it is written from elsewhere: the source and what names files passed through `move`.

    >>> from kivel.core.prepare.parameters import image
    >>> moved_source("my glow/ by=swell.png", [image("by", "")], lambda path: f"../{path}")
    '../my glow/ by=../swell.png'
    """
    if "=" not in text:
        return move(text)
    words = words_of(text)
    first = _first_value(words, parameters)
    end = words[first - 1].end if first else 0
    return move(_unquoted(text[:end]).strip()) + moved_files(text, words[first:], parameters, move)[end:]


def moved_files(text: str, words: Sequence[Word], parameters: Sequence[Parameter], move: Callable[[str], str]) -> str:
    """The same text, those of the words that name files passed through `move`."""
    for word, parameter, value in reversed(list(_assigned(text, words, parameters, text))):
        if parameter.names_a_file and value is not None and isinstance(parameter.read(value), NamedFile):
            key = word.text.removesuffix(value)
            path = move(value)
            text = text[: word.start] + key + (f'"{path}"' if " " in path else path) + text[word.end :]
    return text


def _asked(parameter: Parameter) -> str:
    if not parameter.positional:
        return f"{parameter.name}={parameter.form}"
    return parameter.name.upper() if parameter.form == "N" else parameter.form


def _meant(
    text: str, word: Word, known: Mapping[str, Parameter], waiting: Sequence[Parameter], name: str
) -> tuple[Parameter, str | None]:
    """The parameter that a word is for, and the text of its value; None for a flag that is alone."""
    match = _KEY.fullmatch(word.text)
    if match and match[1] in known:
        return known[match[1]], match[2]
    if match:
        raise pointing_at(text, word.start, word.end, f"{name} has no {match[1]}={_suggestion(match[1], known)}")
    if word.text in known and known[word.text].is_flag:
        return known[word.text], None
    if not waiting:
        raise pointing_at(text, word.start, word.end, f"{name} takes no {word.text!r}{_suggestion(word.text, known)}")
    return waiting[0], word.text


def _suggestion(word: str, known: Mapping[str, Parameter]) -> str:
    return did_you_mean(word, known, otherwise=f"it has {', '.join(known)}" if known else "it takes nothing")
