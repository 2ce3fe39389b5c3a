"""The commands: parse, call, report."""

from __future__ import annotations

__all__ = ["help_line"]


def help_line(prog: str) -> str:
    """Where to look on."""
    return f"{prog} --help shows what there is"
