"""Named tuples that load quickly."""

from __future__ import annotations

TYPE_CHECKING = False
if TYPE_CHECKING:
    from typing import NamedTuple
else:
    from collections import namedtuple

    class _Made(type):
        def __new__(cls, name, bases, body):  # noqa: ARG004
            fields = body.get("__annotations__", {})
            defaults = [body[field] for field in fields if field in body]
            made = namedtuple(name, fields, defaults=defaults, module=body["__module__"])
            for key, value in body.items():
                if key not in fields and key != "__module__":
                    setattr(made, key, value)
            return made

    NamedTuple = type.__new__(_Made, "NamedTuple", (), {})
    """Says what `typing.NamedTuple` is, without its look at each annotation, which compiles it: that takes longer than
    all else of a class, and a small sheet has seventy.
    """

__all__ = ["NamedTuple"]
