"""Describes what a check looks for and lets pass, as one value: everything of it but what it is of."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from fractions import Fraction

from kivel.core.checks.codes import CODES
from kivel.making.checking.allowances import Allowance

__all__ = ["CheckSettings"]


@dataclass(frozen=True)
class CheckSettings:
    """`only` are codes, none for all but those that have to be asked for; `known` are findings by their places.

    `levels` mip levels are looked at, `budget` is in bytes a page, `clock` in ticks a second; under `sides` each frame
    is a tile. Warnings fail under `strict`.
    """

    only: frozenset[str] = frozenset()
    allowances: tuple[Allowance, ...] = ()
    known: Counter[str] | None = None
    strict: bool = False
    levels: int = 4
    budget: int | None = None
    clock: Fraction | None = None
    sides: bool = False

    def wants(self, code: str) -> bool:
        return code in self.only if self.only else not CODES[code].asked
