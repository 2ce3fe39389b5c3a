"""Commands as Python functions."""

from __future__ import annotations

import inspect
import os
from collections.abc import Callable, Iterable
from typing import Any

from kivel.core.errors import KivelError, UsageError
from kivel.core.suggestions import did_you_mean
from kivel.making.commands import Command, command
from kivel.making.options.option import Option
from kivel.making.work import Watch, Work

__all__ = ["again", "for_python", "python_door"]


def python_door(name: str) -> Callable[..., Any]:
    """A command as a function: sources as arguments, options as keywords, what was made as its result."""
    if name == "again":
        return again
    one = command(name)
    keywords = {option.python: option for option in for_python(one)}

    def call(*sources: Any, watch: Watch | None = None, **options: Any) -> Any:
        try:
            given = _positional(one, sources) | _named(keywords, options)
            return one.run(one.options.of(given, door="python"), Work(watch, door="python"))
        except KivelError as error:
            error.door = "python"
            raise

    call.__name__ = call.__qualname__ = name
    call.__module__ = "kivel"
    call.__doc__ = _doc(one)
    call.__signature__ = _signature(one)  # type: ignore[attr-defined]
    return call


def again(target: str | os.PathLike[str], /, *, watch: Watch | None = None, **options: Any) -> Any:
    """Do what made a manifest once more, with the frames that are there now; return what its command does.

    Parameters
    ----------
    target : path
        NAME.kivel.json, an image that it is of, or a folder of frames that Kivel wrote.
    watch : callable
        Is called with each Note and Progress; what it raises stops the work.
    options
        Of the command that made it, in place of its own.

    Raises
    ------
    KivelError
        If it cannot be done; then nothing is written.
    """
    from kivel.making.again import made_before, make_again
    from kivel.making.options.again_options import AgainOptions

    try:
        keywords = {option.python: option for option in for_python(made_before(os.fspath(target)).command)}
        given = _named({word: option for word, option in keywords.items() if not option.positional}, options)
        asked = AgainOptions.of({"target": target}, door="python")
        return make_again(asked, Work(watch, door="python"), given).made
    except KivelError as error:
        error.door = "python"
        raise


def for_python(one: Command) -> list[Option[Any]]:
    return [option for option in one.options.declared().values() if not option.command_only]


def _named(keywords: dict[str, Option[Any]], options: dict[str, Any]) -> dict[str, Any]:
    """Values by the names of options; a keyword that no option has is refused."""
    for word in options:
        if word not in keywords:
            raise UsageError(f"unknown option {word!r}{did_you_mean(word, keywords, kind='option', written=repr)}")
    return {keywords[word].name: value for word, value in options.items()}


def _positional(one: Command, sources: tuple[Any, ...]) -> dict[str, Any]:
    """Arguments without a name, for the options that are written so: one each, and the rest for one that takes many."""
    given: dict[str, Any] = {}
    rest = list(sources)
    for option in one.options.declared().values():
        if not option.positional or not rest:
            continue
        if option.many:
            given[option.name], rest = _flat(rest), []
        else:
            given[option.name] = rest.pop(0)
    if rest:
        raise UsageError(f"{len(rest)} arguments too many: {', '.join(map(repr, rest))}")
    return given


def _flat(sources: Iterable[Any]) -> list[Any]:
    """Sources, given one by one or in a list."""
    flat: list[Any] = []
    for source in sources:
        flat += list(source) if isinstance(source, (list, tuple)) else [source]
    return flat


def _signature(one: Command) -> inspect.Signature:
    kind = inspect.Parameter
    options = for_python(one)
    positional = [option for option in options if option.positional]
    parameters = [
        kind(option.python, kind.VAR_POSITIONAL if option.many else kind.POSITIONAL_ONLY) for option in positional
    ]
    parameters += [
        kind(option.python, kind.KEYWORD_ONLY, default=option.default) for option in options if not option.positional
    ]
    return inspect.Signature([*parameters, kind("watch", kind.KEYWORD_ONLY, default=None)])


def _doc(one: Command) -> str:
    """Return the docstring of a command: its description, and a line for each option."""
    lines = [one.about.strip(), "", "Parameters", "----------"]
    for option in for_python(one):
        default = f" (default: {option.shown})" if option.shown else ""
        lines += [f"{option.python} : {option.form or 'bool'}", f"    {option.help}{default}"]
    lines += [
        "watch : callable",
        "    is called with each Note and Progress; an exception that it raises stops the work",
    ]
    lines += ["", "Raises", "------", "KivelError", "    If it cannot be done; then nothing is written."]
    return "\n".join(lines)
