"""Running a chain of steps over a sequence, frame by frame: what is in memory are the frames being worked on."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from functools import partial
from typing import Any, NamedTuple, Protocol

from kivel.core.errors import UsageError
from kivel.core.light import Kind
from kivel.core.playback.notation import Ordered, within_count
from kivel.core.prepare.actions import Action, Each, Frame, Measured, Order, Place, Transform

__all__ = ["Prepared", "Shelf", "prepared"]

Load = Callable[[], Frame]
Mapper = Callable[[Callable[[Any], Any], Iterable[Any]], Iterator[Any]]
"""Like `map`: applies a function to each, perhaps several at a time, and gives the results in order."""


class Shelf(Protocol):
    """Somewhere outside of memory to put frames that were looked at and will be asked for again."""

    def kept(self, frame: Frame) -> Load | None:
        """A way to get the frame back, or None when there is no room."""


class Prepared(NamedTuple):
    """A frame that can be had, the source frame it comes from, and how many times as long that is to be held."""

    load: Load
    origin: int
    times: int = 1


def prepared(
    loads: Sequence[Load],
    actions: Sequence[Action],
    *,
    names: Sequence[str] = (),
    kind: Kind = "color",
    run: Mapper,
    shelf: Shelf | None = None,
) -> list[Prepared]:
    """The sequence after a chain of steps, nothing of it computed but what the steps had to measure.

    Parameters
    ----------
    loads : sequence of callables
        Each gives a frame, whenever it is asked.
    actions : sequence
        In the order in which they are done. One that measures takes a pass over all frames as they are by then.
    names : sequence of str
        What each frame is called, for errors.
    run : callable
        What measures the frames.
    shelf : Shelf or None
        Keeps the frames of a pass for the next; without one they are made again.

    Raises
    ------
    UsageError
        If a step names a frame that is not there, or leaves none.
    KivelError
        What a step finds wrong, when frames are measured or loaded.
    """
    items = [Prepared(load, origin) for origin, load in enumerate(loads)]
    names = names or [f"frame {origin}" for origin in range(len(loads))]
    for action in actions:
        if isinstance(action, Order):
            items = _reordered(items, action)
        elif isinstance(action, Each):
            items = _changed(items, action.transform, _places(items, names, kind))
        else:
            items = _measured(items, action, _places(items, names, kind), run, shelf)
    return items


def _reordered(items: Sequence[Prepared], action: Order) -> list[Prepared]:
    picked = action.pick(len(items))
    within_count(picked, len(items))
    if not picked:
        raise UsageError("no frame is left")
    return [_held(items[entry.frame], entry) for entry in picked]


def _held(item: Prepared, entry: Ordered) -> Prepared:
    return item._replace(times=item.times * entry.times)


def _places(items: Sequence[Prepared], names: Sequence[str], kind: Kind) -> list[Place]:
    return [Place(number, len(items), kind, names[item.origin]) for number, item in enumerate(items)]


def _changed(items: Sequence[Prepared], transform: Transform, places: Sequence[Place]) -> list[Prepared]:
    def changed(load: Load, place: Place) -> Frame:
        return transform(load(), place)

    return [item._replace(load=partial(changed, item.load, place)) for item, place in zip(items, places, strict=True)]


def _measured(
    items: Sequence[Prepared], action: Measured, places: Sequence[Place], run: Mapper, shelf: Shelf | None
) -> list[Prepared]:
    def measured(work: tuple[Load, Place]) -> tuple[Any, Load | None]:
        load, place = work
        frame = load()
        return action.measure(frame, place), shelf.kept(frame) if shelf else None

    values, again = [], []
    work = zip((item.load for item in items), places, strict=True)
    for item, (value, kept) in zip(items, run(measured, work), strict=True):
        values.append(value)
        again.append(item._replace(load=kept or item.load))
    return _changed(again, action.decide(values), places)
