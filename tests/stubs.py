"""Writes `src/kivel/__init__.pyi` from the declarations of options: `python tests/stubs.py`."""

from __future__ import annotations

import ast
import inspect
import textwrap
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import kivel
from kivel.making.commands import Command, command
from kivel.making.door import again, for_python
from kivel.making.options.option import Option

__all__ = ["STUB", "stub_text"]

STUB = Path(kivel.__file__).with_name("__init__.pyi")
_TOP = '''\
"""Made by `python tests/stubs.py`, from the declarations of options."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from fractions import Fraction
from os import PathLike
from typing import Any, Literal

from numpy.typing import NDArray

'''
_WATCH = "watch: Callable[[Note | Progress], object] | None = None"


def stub_text() -> str:
    """What the file should be."""
    names = sorted(vars(kivel)["_NAMES"].items(), key=lambda item: (item[1], item[0]))
    text = _TOP
    text += "".join(f"from {home} import {name} as {name}\n" for name, home in names)
    text += "\n__version__: str\n\n__all__ = [\n" + "".join(f'    "{name}",\n' for name in kivel.__all__) + "]\n"
    return text + "".join(map(_function, vars(kivel)["_COMMANDS"]))


def _function(name: str) -> str:
    one = command(name)
    options = for_python(one)
    if name == "again":  # its options are those of whatever made its target
        doc = textwrap.indent(inspect.getdoc(again) or "", "    ").strip()
        return (
            f'\ndef again(target: str | PathLike[str], /, *, {_WATCH}, **options: Any) -> Any:\n    """{doc}\n    """\n'
        )
    parameters = ",\n    ".join([*_parameters(options), _WATCH])
    doc = textwrap.indent(_doc(name), "    ")
    return f'\ndef {name}(\n    {parameters},\n) -> {_returned(one)}:\n    """{doc.strip()}\n    """\n'


def _parameters(options: list[Option[Any]]) -> Iterator[str]:
    positional = [option for option in options if option.positional]
    single = [option for option in positional if not option.many]
    yield from (f"{option.python}: {_accepted(option)}{_default(option)}" for option in single)
    if single:
        yield "/"
    several = next((option for option in positional if option.many), None)
    # sources may also stand in a list
    yield f"*{several.python}: {several.kind.python} | Sequence[{several.kind.python}]" if several else "*"
    for option in options:
        if not option.positional:
            yield f"{option.python}: {_accepted(option)}{_default(option)}"


def _default(option: Option[Any]) -> str:
    if option.needed:
        return ""
    plain = option.default is None or isinstance(option.default, (str, int, float))
    return f" = {option.default!r}" if plain else " = ..."


def _accepted(option: Option[Any]) -> str:
    """The type of what may be given."""
    one = option.kind.python
    if option.direct:
        return "Iterable[NDArray[Any]]"
    if option.bare:
        one += " | Literal[True]"
    if option.per_clip:
        several = f" | Sequence[{one}]" if option.many else ""
        return f"{one}{several} | Mapping[str, {one}{several}] | None"
    if option.many:
        by_name = f" | Mapping[str, {option.kind.by_name}]" if option.kind.by_name else ""
        return f"{one} | Sequence[{one}]{by_name} | None"
    return f"{one} | None"


def _returned(one: Command) -> str:
    annotation = inspect.get_annotations(one.make)["return"]
    return str(annotation if isinstance(annotation, str) else annotation.__name__)


def _doc(name: str) -> str:
    lines = str(getattr(kivel, name).__doc__).replace("\\", "\\\\").split("\n")
    indents = [line[: len(line) - len(line.lstrip())] for line in lines]
    wrapped = [textwrap.fill(line, 112, subsequent_indent=indent) for line, indent in zip(lines, indents, strict=True)]
    return "\n".join(wrapped)


def main() -> None:
    text = stub_text()
    ast.parse(text)
    STUB.write_text(text, encoding="utf-8")


if __name__ == "__main__":
    main()
