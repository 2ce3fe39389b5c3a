"""Frozen dataclasses that load quickly."""

from __future__ import annotations

import dataclasses
from collections.abc import Callable
from typing import Any, TypeVar, dataclass_transform

from kivel.core.fields import described

__all__ = ["record"]

T = TypeVar("T")


@dataclass_transform(frozen_default=True, field_specifiers=(dataclasses.field, described))
def record(cls: type[T]) -> type[T]:
    """Return what `dataclass(frozen=True)` makes, for all that can be seen, with methods that all records share.

    The library writes six methods for each class as text and compiles them, a thousandth of a second a class: a tenth
    of what a small sheet takes. `fields`, `replace` and `is_dataclass` know these as their own.
    """
    made = dataclasses.dataclass(init=False, repr=False, eq=False)(cls)
    fields = dataclasses.fields(made)  # type: ignore[arg-type]
    names = tuple(field.name for field in fields)
    known = frozenset(names)
    defaults = {field.name: field.default for field in fields if field.default is not dataclasses.MISSING}
    factories: dict[str, Callable[[], Any]] = {
        field.name: field.default_factory for field in fields if field.default_factory is not dataclasses.MISSING
    }

    def init(self: Any, *args: Any, **given: Any) -> None:
        values = self.__dict__
        values.update(defaults)
        for name, factory in factories.items():
            if name not in given:
                values[name] = factory()
        values.update(zip(names, args, strict=False))
        values.update(given)
        if values.keys() != known or len(args) > len(names) or not given.keys().isdisjoint(names[: len(args)]):
            raise TypeError(f"{cls.__name__} takes {', '.join(names)}; given {len(args)} and {', '.join(given)}")

    def texts(self: Any) -> str:
        return f"{cls.__qualname__}({', '.join(f'{name}={getattr(self, name)!r}' for name in names)})"

    def equal(self: Any, other: Any) -> Any:
        # a default that nobody stated may depend on the class alone
        same = type(self) is type(other)
        return all(getattr(self, name) == getattr(other, name) for name in names) if same else NotImplemented

    def digest(self: Any) -> int:
        return hash(tuple(getattr(self, name) for name in names))

    for name, method in {
        "__init__": init, "__repr__": texts, "__eq__": equal, "__hash__": digest, "__setattr__": _refuse,
        "__delattr__": _refuse,
    }.items():  # fmt: skip
        setattr(made, name, method)
    return made


def _refuse(self: Any, name: str, *_value: Any) -> None:  # noqa: ARG001 - as they are called
    raise dataclasses.FrozenInstanceError(f"cannot change {name!r}")
