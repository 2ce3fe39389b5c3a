"""Telling an interrupt from a fault."""

from __future__ import annotations

__all__ = ["was_interrupted"]


def was_interrupted(error: BaseException | None) -> bool:
    """Whether Ctrl-C is behind an error: Python 3.11 wraps what is raised while a class is made (`__set_name__`)."""
    while error is not None and not isinstance(error, KeyboardInterrupt):
        error = error.__cause__
    return error is not None
