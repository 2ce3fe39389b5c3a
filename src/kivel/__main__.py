"""`kivel`, and `python -m kivel`."""

from __future__ import annotations

TYPE_CHECKING = False
if TYPE_CHECKING:
    from typing import NoReturn

__all__ = ["start"]


def start() -> NoReturn:
    """The program; it can be interrupted from its first import on."""
    try:
        from kivel.cli.main import program

        program()
    except BaseException as error:
        from kivel.cli.interrupts import was_interrupted

        if not was_interrupted(error):
            raise
        import os
        import sys

        print("interrupted", file=sys.stderr)
        os._exit(130)


if __name__ == "__main__":
    start()
