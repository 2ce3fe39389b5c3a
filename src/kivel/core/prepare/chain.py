"""Running a chain of steps over a sequence, frame by frame: what is in memory are the frames being worked on."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from functools import partial
from typing import Any, Protocol

import numpy as np

from kivel.core.contents import Content, grounded
from kivel.core.errors import UsageError
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.light import Kind
from kivel.core.pixels.pixels import Pixels, is_opaque
from kivel.core.playback.notation import Ordered, within_count
from kivel.core.prepare.actions import Action, Each, Frame, Measured, Order, Place, Reach, Transform

__all__ = ["Effect", "MapTrack", "Prepared", "Shelf", "prepared", "prepared_map"]

Load = Callable[[], Frame]
Mapper = Callable[[Callable[[Any], Any], Iterable[Any]], Iterator[Any]]
"""Like `map`: applies a function to each, perhaps several at a time, and gives the results in order."""


class Shelf(Protocol):
    """Somewhere outside of memory to put frames that were looked at and will be asked for again."""

    def kept(self, frame: Frame) -> Load | None:
        """A way to get the frame back, or None when there is no room."""


class Done(NamedTuple):
    """A change that a frame has been through, to be done to its companion maps too."""

    transform: Transform
    place: Place
    reach: Reach


class Prepared(NamedTuple):
    """A frame that can be had, the source frame it comes from, and how many times as long that is to be held.

    `done` is what was done to it, in order.
    """

    load: Load
    origin: int
    times: int = 1
    done: tuple[Done, ...] = ()


class Effect:
    """Holds what came of a step: whether it changed any frame, as far as known, and its note."""

    def __init__(self) -> None:
        self.changed = False
        self.said = ""


class MapTrack(NamedTuple):
    """A companion map: what it holds, and how to get the pixels of each of its frames."""

    content: Content
    loads: Sequence[Callable[[], Pixels]]


def prepared(
    loads: Sequence[Load],
    actions: Sequence[Action],
    *,
    names: Sequence[str] = (),
    kind: Kind = "color",
    run: Mapper,
    shelf: Shelf | None = None,
    maps: Sequence[MapTrack] = (),
    effects: Sequence[Effect] = (),
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
    maps : sequence of MapTrack
        What boxes must hold too; `prepared_map` makes their frames.
    effects : sequence of Effect
        One for each action, to be told what comes of it.

    Raises
    ------
    UsageError
        If a step names a frame that is not there, or leaves none.
    KivelError
        What a step finds wrong, when frames are measured or loaded.
    """
    items = [Prepared(load, origin) for origin, load in enumerate(loads)]
    names = names or [f"frame {origin}" for origin in range(len(loads))]
    for action, effect in zip(actions, effects or [Effect() for _ in actions], strict=True):
        if isinstance(action, Order):
            items = _reordered(items, action, effect)
        elif isinstance(action, Each):
            items = _changed(items, action.transform, _places(items, names, kind), action.reach, effect)
        else:
            items = _measured(items, action, _places(items, names, kind), run, shelf, maps, effect)
    return items


def _reordered(items: Sequence[Prepared], action: Order, effect: Effect) -> list[Prepared]:
    picked = action.pick(len(items))
    within_count(picked, len(items))
    if not picked:
        raise UsageError("no frames are left")
    effect.changed = picked != [Ordered(index) for index in range(len(items))]
    return [_held(items[entry.frame], entry) for entry in picked]


def _held(item: Prepared, entry: Ordered) -> Prepared:
    return item._replace(times=item.times * entry.times)


def _places(items: Sequence[Prepared], names: Sequence[str], kind: Kind) -> list[Place]:
    return [Place(number, len(items), kind, names[item.origin]) for number, item in enumerate(items)]


def _changed(
    items: Sequence[Prepared], transform: Transform, places: Sequence[Place], reach: Reach, effect: Effect
) -> list[Prepared]:
    def changed(load: Load, place: Place) -> Frame:
        before = load()
        after = transform(before, place)
        # once is enough: to compare takes its time
        effect.changed = effect.changed or _differ(before, after)
        return after

    return [
        item._replace(load=partial(changed, item.load, place), done=(*item.done, Done(transform, place, reach)))
        for item, place in zip(items, places, strict=True)
    ]


def _differ(before: Frame, after: Frame) -> bool:
    return before.pivot != after.pivot or not (
        before.image is after.image
        or np.array_equal(before.image, after.image, equal_nan=after.image.dtype.kind == "f")
    )


def _measured(
    items: Sequence[Prepared],
    action: Measured,
    places: Sequence[Place],
    run: Mapper,
    shelf: Shelf | None,
    maps: Sequence[MapTrack],
    effect: Effect,
) -> list[Prepared]:
    def measured(work: tuple[Prepared, Place]) -> tuple[Any, Load | None]:
        item, place = work
        frame = item.load()
        value = action.measure(frame, place)
        if action.also:
            for one in maps:
                value = action.also(value, prepared_map(item, one), one.content)
        return value, shelf.kept(frame) if shelf else None

    values, again = [], []
    for item, (value, kept) in zip(items, run(measured, zip(items, places, strict=True)), strict=True):
        values.append(value)
        again.append(item._replace(load=kept or item.load))
    decision = action.decide(values)
    effect.said = decision.said
    return _changed(again, decision.transform, places, "all", effect)


def prepared_map(item: Prepared, map: MapTrack) -> Pixels:
    """The frame of a companion map that goes with a prepared one: moved as that was, by what its own values mean.

    What comes in from outside is neutral, and opaque where the map was.
    """
    image = map.loads[item.origin]()
    # alpha tells where the frame's own pixels came to lie, whatever is done to it
    cover = np.full((*image.shape[:2], 4), 255, np.uint8)
    was_opaque = is_opaque(image)
    moves = False
    for transform, place, reach in item.done:
        if reach == "base" or (reach == "colours" and map.content.name != "color"):
            continue
        image = transform(Frame(image), place._replace(kind=map.content.kind)).image
        if reach == "all":
            moves = True
            cover = transform(Frame(cover), place._replace(kind="mask")).image
    return (
        grounded(image, cover[..., 3].astype(np.float32) / np.float32(255), map.content, opaque=was_opaque)
        if moves
        else image
    )
