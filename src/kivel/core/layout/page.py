"""Describes what sizes a page may have."""

from __future__ import annotations

from collections.abc import Iterator
from math import lcm

from kivel.core.errors import KivelError
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Size

__all__ = ["LayoutError", "PageRule"]

_LONGEST_RATIO = 4


class LayoutError(KivelError):
    """The frames do not fit the layout that was asked for."""


class PageRule(NamedTuple):
    """Which pages are allowed: sides that are powers of two, alike, multiples of a number; and none beyond a limit.

    Or one `exact` size alone.

    >>> PageRule(pow2=True).smallest(Size(300, 40))
    Size(w=512, h=64)
    >>> PageRule(square=True, multiple_of=4).smallest(Size(301, 40))
    Size(w=304, h=304)
    """

    pow2: bool = False
    square: bool = False
    multiple_of: int = 1
    limit: Size | None = None
    exact: Size | None = None

    def smallest(self, content: Size) -> Size:
        """The smallest allowed page that holds `content`, wherever the limit is."""
        if self.exact and content.w <= self.exact.w and content.h <= self.exact.h:
            return self.exact
        w, h = self._up(content.w), self._up(content.h)
        return Size(max(w, h), max(w, h)) if self.square else Size(w, h)

    def smallest_divided(self, columns: int, rows: int, cell: Size, block: int = 1) -> Size | None:
        """The smallest allowed page that divides evenly into this many cells, each as large as `cell` or larger.

        Their sides are multiples of `block`. None if there is no such page.

        >>> PageRule(pow2=True).smallest_divided(4, 3, Size(250, 250)) is None
        True
        >>> PageRule(pow2=True).smallest_divided(4, 4, Size(250, 250))
        Size(w=1024, h=1024)
        """
        if self.exact:
            w, h = self.exact.w // columns, self.exact.h // rows
            fits = (w * columns, h * rows) == self.exact and w >= cell.w and h >= cell.h
            return self.exact if fits and not (w % block or h % block) else None
        units = [lcm(count * block, self.multiple_of) for count in (columns, rows)]
        if self.square:
            units = [lcm(*units)] * 2
        if self.pow2 and any(unit & (unit - 1) for unit in units):
            return None
        sides = [max(count * length, 1) for count, length in zip((columns, rows), cell, strict=True)]
        if self.square:
            sides = [max(sides)] * 2
        w, h = (self._up_to(side, unit) for side, unit in zip(sides, units, strict=True))
        return Size(w, h)

    def within_limit(self, size: Size) -> bool:
        return self.limit is None or (size.w <= self.limit.w and size.h <= self.limit.h)

    def largest(self) -> Size | None:
        """The largest page allowed; None where there is no limit.

        Raises
        ------
        LayoutError
            If no page at all is within the limit.
        """
        if self.limit is None:
            return None
        w, h = self._down(self.limit.w), self._down(self.limit.h)
        if not min(w, h):
            raise LayoutError(f"no page whose sides are {self.sides()} fits the limit of {self.limit} px")
        return Size(min(w, h), min(w, h)) if self.square else Size(w, h)

    def pages_by_area(self, content_area: int, least: Size) -> Iterator[Size]:
        """Pages of powers of two for a content, smaller ones first, of equal ones the most nearly square, wide first.

        Up to the limit, or the first square that is four times the content.
        """
        most = self.largest()
        first = self.smallest(least)
        sides = [1 << bit for bit in range(32)]
        bound = 16 * max(content_area, first.w * first.h)
        pages = [
            Size(w, h)
            for w in sides
            for h in ([w] if self.square else sides)
            if w >= first.w
            and h >= first.h
            and content_area <= w * h <= bound
            and (max(w, h) <= _LONGEST_RATIO * min(w, h) or max(w, h) <= max(first))
            and (most is None or (w <= most.w and h <= most.h))
        ]
        yield from sorted(pages, key=lambda page: (page.w * page.h, abs(page.w - page.h), -page.w))

    def _up(self, length: int) -> int:
        return self._up_to(max(length, 1), self.multiple_of)

    def _up_to(self, length: int, of: int) -> int:
        length = -(-length // of) * of
        return 1 << (length - 1).bit_length() if self.pow2 else length

    def _down(self, length: int) -> int:
        if self.pow2:
            length = 1 << (length.bit_length() - 1)
        return length - length % self.multiple_of

    def sides(self) -> str:
        """The rule for sides in words, empty where there is none."""
        names = [name for name, wanted in (("powers of two", self.pow2), ("alike", self.square)) if wanted]
        return " and ".join(names + ([f"multiples of {self.multiple_of}"] if self.multiple_of > 1 else []))
