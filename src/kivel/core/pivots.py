"""Where frames turn and are: pivots set without moving a pixel."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from fnmatch import fnmatchcase
from typing import Literal

from kivel.core.errors import UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.core.numbers import decimal
from kivel.core.option_words import Align
from kivel.core.pixels.pixels import ALIGNMENTS, Size
from kivel.core.survey import Point
from kivel.core.wording import first_few

__all__ = ["PivotRequest", "PivotSeries", "parse_pivot", "pivots_of"]

_FARTHEST = 1_000_000


class PivotRequest(NamedTuple):
    """Where frames have their pivot: a place of the canvas, a point in its pixels, or the centre of what is seen.

    `pattern` matches names of series, clips or frames; None is all.
    """

    pattern: str | None
    at: Align | Literal["mass"] | Point


class PivotSeries(NamedTuple):
    """Frames that belong together, by their numbers."""

    name: str
    frames: Sequence[int]


_ALSO = {"centre": "center", "middle": "center", "feet": "bottom"}
"""Says what the trade calls places."""


def parse_pivot(text: str) -> PivotRequest:
    """`bottom`, `16,30`, `mass`; `walk*=bottom` for one series.

    Raises
    ------
    UsageError
        If it is none of them.
    """
    name, equals, where = text.rpartition("=")
    pattern = name.strip() if equals else None
    where = _ALSO.get(where.strip(), where.strip())
    across, comma, down = where.partition(",")
    x, y = decimal(across), decimal(down)
    if pattern != "" and comma and x is not None and y is not None and max(abs(x), abs(y)) <= _FARTHEST:
        return PivotRequest(pattern, (x, y))
    if pattern == "" or where not in (*ALIGNMENTS, "mass"):
        raise UsageError(f"expected {', '.join(ALIGNMENTS)}, mass, or X,Y in pixels, like 16,30, found {text!r}")
    return PivotRequest(pattern, where)  # type: ignore[arg-type]


def pivots_of(
    requests: Sequence[PivotRequest],
    series: Sequence[PivotSeries],
    names: Sequence[str],
    sizes: Sequence[Size],
    measure: Callable[[Sequence[int]], Iterable[tuple[float, Point | None]]],
) -> dict[int, Point]:
    """The pivots of the frames that are meant, in fractions of their canvas; later requests count before earlier ones.

    Parameters
    ----------
    measure : callable
        Gives for frames how much is seen of each, and its centre in fractions of the canvas.

    Raises
    ------
    UsageError
        If a pattern matches nothing.
    """
    found: dict[int, Point] = {}
    for request in sorted(requests, key=lambda each: each.pattern is not None):
        meant = _meant(request, series, names)
        if not meant:
            known = first_few([one.name for one in series])
            raise UsageError(f"{option('pivot')}: no series is called {request.pattern!r}; series: {known}")
        for one in meant:
            if request.at == "mass":
                centre = _centre(list(measure(one.frames)))
                found |= dict.fromkeys(one.frames, centre)
            else:
                found |= {number: _placed(request.at, sizes[number]) for number in one.frames}
    return found


def _meant(request: PivotRequest, series: Sequence[PivotSeries], names: Sequence[str]) -> list[PivotSeries]:
    """The series that are meant; frames that are named by themselves are one."""
    if request.pattern is None:
        return list(series)
    pattern = request.pattern
    whole = [one for one in series if fnmatchcase(one.name, pattern)]
    if whole:
        return whole
    single = [number for number, name in enumerate(names) if fnmatchcase(name, pattern)]
    return [PivotSeries(pattern, single)] if single else []


def _centre(seen: Sequence[tuple[float, Point | None]]) -> Point:
    """The centre of all that is seen; of nothing, the middle."""
    total = sum(mass for mass, _ in seen)
    if not total:
        return 0.5, 0.5
    x, y = (sum(mass * at[axis] for mass, at in seen if at) / total for axis in (0, 1))
    return x, y


def _placed(at: Align | Literal["mass"] | Point, size: Size) -> Point:
    if not isinstance(at, str):
        return at[0] / size.w, at[1] / size.h
    x = 0.0 if at.endswith("left") else 1.0 if at.endswith("right") else 0.5
    y = 0.0 if at.startswith("top") else 1.0 if at.startswith("bottom") else 0.5
    return x, y
