"""Frames in few colours: one palette for all frames of a map, and how far they are from what they were."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator, Sequence
from functools import partial
from itertools import chain
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from kivel.core.errors import UsageError, option
from kivel.core.pixels.compose import to_8_bits
from kivel.core.pixels.indexed import MOST_COLOURS, StoredPalette
from kivel.core.pixels.pixels import bit_depth
from kivel.core.wording import counted
from kivel.files.palette_file import read_palette
from kivel.files.threads import in_order
from kivel.making.options.groups.output_options import ColourOptions

if TYPE_CHECKING:
    from kivel.core.pixels.palettes import Error, Palette
    from kivel.core.pixels.pixels import Pixels
    from kivel.core.prepare.actions import Frame
    from kivel.core.prepare.chain import Shelf
    from kivel.making.frames.frame_files import NewFrame
    from kivel.making.work import Work
    from kivel.sequences.map_frames import MapFrames

__all__ = ["Reduced", "in_few_colours", "maps_in_few_colours", "reduced_to", "require_colour"]

Load = Callable[[], "Pixels"]
_NOTHING = np.zeros((1, 1, 4), np.uint8)


class Reduced:
    """Pixels in the colours of a palette. What is handed out is measured; `note` tells it when all is done."""

    def __init__(self, name: str, palette: Palette, premultiplied: bool) -> None:
        self._name = name
        self._palette = palette
        self._premultiplied = premultiplied
        self._errors: dict[str, Error] = {}
        self._lock = threading.Lock()

    @property
    def palette(self) -> StoredPalette:
        """Return the palette to store them with."""
        return StoredPalette(self._palette.colours.tobytes())

    def pixels(self, image: Pixels, frame: str) -> Pixels:
        from kivel.core.pixels.palettes import error_between

        before = to_8_bits(image)
        after = self._palette.mapped(before)
        error = error_between(before, after, premultiplied=self._premultiplied)
        with self._lock:
            self._errors[frame] = error
        return after

    def note(self) -> str:
        from kivel.core.pixels.palettes import Error

        told = counted(len(self._palette.colours), "colour")
        told = told if self._name == "color" else f"{told} for map {self._name}"
        if not any(square for error in self._errors.values() for square in error):
            return f"{told}, no pixel changed"
        parts = []
        for index, ground in enumerate(("black", "white")):
            squares = {frame: error[index] for frame, error in self._errors.items()}
            worst = max(squares, key=lambda frame: (squares[frame], frame))
            mean = Error.decibels(sum(squares.values()) / len(squares))
            parts.append(f"{mean:.1f} dB over {ground}, at worst {Error.decibels(squares[worst]):.1f} ({worst})")
        return f"{told}: {'; '.join(parts)}"


def reduced_to(
    options: ColourOptions,
    name: str,
    loads: Sequence[Load],
    *,
    premultiplied: bool,
    jobs: int,
    with_nothing: bool,
    advance: Callable[[], None],
) -> Reduced:
    """The palette for all of these frames; `with_nothing` where there may be space in which no frame is."""
    from kivel.core.pixels.palettes import Colours, Palette, best_palette, nearest_own

    def eight_bits(load: Load) -> Pixels:
        image = load()
        require_colour("color", bit_depth(image))
        return to_8_bits(image)

    def each() -> Iterator[Pixels]:
        for image in in_order(eight_bits, loads, jobs=jobs):
            yield image
            advance()

    if options.palette:
        table = read_palette(Path(options.palette), max_pixels=options.pixel_limit).table
        if not with_nothing:
            with_nothing = sum(not image[..., 3].all() for image in each()) > 0
        if with_nothing and table[:, 3].all():
            table = _with_nothing(table)
        return Reduced(name, Palette(table, premultiplied=premultiplied, dither=options.dither), premultiplied)
    colours = Colours(premultiplied=premultiplied)
    if with_nothing:
        colours.add(_NOTHING)
    for image in each():
        colours.add(image)
    palette = best_palette(colours, options.colors or 0, dither=options.dither)
    if options.own_colors:
        found = nearest_own(palette, chain([_NOTHING] if with_nothing else [], map(eight_bits, loads)))
        palette = Palette(found, premultiplied=premultiplied, dither=options.dither)
    return Reduced(name, palette, premultiplied)


def _with_nothing(table: Pixels) -> Pixels:
    """A palette in which nothing is transparent, with transparent black at its end.

    Raises
    ------
    UsageError
        If it is full.
    """
    if len(table) == MOST_COLOURS:
        raise UsageError(f"the palette has {MOST_COLOURS} colours and none is transparent; remove one of them")
    return np.concatenate((table, _NOTHING[0]))


def maps_in_few_colours(
    options: ColourOptions, work: Work, maps: Sequence[MapFrames], *, premultiplied: bool, jobs: int
) -> tuple[list[MapFrames], list[Reduced]]:
    """Maps that hold colour with a palette each; data stays as it is.

    Raises
    ------
    UsageError
        If the frames themselves are data, or of float values.
    """
    if not options.reduces_colours:
        return list(maps), []
    require_colour(maps[0].content.kind, maps[0].depth)
    made, palettes = [], []
    for one in maps:
        if one.content.kind != "color" or one.depth == 32:
            work.note(f"map {one.name} holds data and is unchanged")
            made.append(one)
            continue
        if options.palette and one.name != "color":
            work.note(f"map {one.name} is unchanged, {option('palette')} is for the frames alone")
            made.append(one)
            continue
        if one.depth == 16:
            work.note(f"map {one.name}: its 16 bits a channel become 8")
        there = [index for index, frame in enumerate(one.frames) if frame is not None]
        with work.progress("counting colours", len(there)) as advance:
            reduced = reduced_to(
                options, one.name, [partial(one.load, index) for index in there],
                premultiplied=premultiplied and one.name == "color", jobs=jobs, with_nothing=True, advance=advance,
            )  # fmt: skip
        made.append(_mapped(one, reduced))
        palettes.append(reduced)
    return made, palettes


def in_few_colours(
    options: ColourOptions, work: Work, frames: Sequence[NewFrame], shelf: Shelf, *, premultiplied: bool, jobs: int
) -> tuple[list[NewFrame], list[Reduced]]:
    """Frames that are yet to be made, of colour; each is made once, and put on the shelf meanwhile."""
    if not options.reduces_colours:
        return list(frames), []
    loads = [_Kept(frame.load, shelf) for frame in frames]
    with work.progress("counting colours", len(frames)) as advance:
        reduced = reduced_to(
            options, "color", [partial(_image_of, load) for load in loads],
            premultiplied=premultiplied, jobs=jobs, with_nothing=False, advance=advance,
        )  # fmt: skip

    def load(load: Callable[[], Frame], name: str) -> Frame:
        frame = load()
        return frame._replace(image=reduced.pixels(frame.image, name))

    mapped = [
        frame._replace(load=partial(load, kept, frame.name), palette=reduced.palette)
        for frame, kept in zip(frames, loads, strict=True)
    ]
    return mapped, [reduced]


class _Kept:
    """A frame that is made when it is first asked for, and fetched from the shelf the next time."""

    def __init__(self, load: Callable[[], Frame], shelf: Shelf) -> None:
        self._load = load
        self._shelf = shelf
        self._fetch: Callable[[], Frame] | None = None

    def __call__(self) -> Frame:
        if self._fetch is not None:
            return self._fetch()
        frame = self._load()
        self._fetch = self._shelf.kept(frame)
        return frame


def _image_of(load: Callable[[], Frame]) -> Pixels:
    return load().image


def require_colour(kind: str, depth: int = 8) -> None:
    """Raise `UsageError` where values are data, or float."""
    if kind != "color":
        raise UsageError(f"{option('colors')} is for colour, but these frames hold {kind}; remove it")
    if depth == 32:
        raise UsageError(f"{option('colors')} is for 8 bits, but these frames are float; add {option('exposure')}")


def _mapped(one: MapFrames, reduced: Reduced) -> MapFrames:
    def load(index: int, name: str) -> Pixels:
        return reduced.pixels(one.load(index), name)

    frames = tuple(
        frame and frame._replace(load=partial(load, index, frame.name), size=size, depth=8, palette=reduced.palette)
        for index, (frame, size) in enumerate(zip(one.frames, one.sizes, strict=True))
    )
    return one._replace(frames=frames, depth=8)
