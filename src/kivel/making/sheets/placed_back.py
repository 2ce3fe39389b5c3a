"""Where frames go on the sheet that they were sliced from: where they were, and what is new where there is room."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np

from kivel.core.layout.free_room import free_place
from kivel.core.layout.placement import Placement
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Pixels, Rect, Size, opaque_bounds
from kivel.core.playback.clip import Clip
from kivel.files.images import FrameSource
from kivel.files.manifest.model import CutFrom, GridInfo

__all__ = ["PlacedBack", "back_in_place", "back_in_rows"]

_APART = 2
"""Pixels between a frame that is new and others: what was an island stays one."""


class PlacedBack(NamedTuple):
    """The pages' sizes, where each frame goes, and the grid if there is one.

    `moved` are the numbers of frames that are not back in a place of their own.
    """

    pages: tuple[Size, ...]
    placements: tuple[Placement, ...]
    grid: GridInfo | None
    moved: tuple[int, ...] = ()


def back_in_place(
    frames: Sequence[FrameSource],
    cuts: Sequence[CutFrom | None],
    gone: Sequence[CutFrom],
    pages: Sequence[Size],
    drawn: Callable[[], Pixels | None],
    step: int,
) -> PlacedBack:
    """Return every frame where it was; those that were added or have grown where there is room, else below all others.

    Parameters
    ----------
    gone : sequence of CutFrom
        Where frames were that were removed: these places stay free.
    drawn : callable
        Gives what lies on the only page without the frames, (H, W, 4), if that is known: where it is visible there is
        no room.
    step : int
        New places divide by it, for smaller maps.
    """
    boxes = [Rect(*cut.offset, *cut.rect.size) if cut else None for cut in cuts]
    shown = [_shown(frame, box) for frame, box in zip(frames, boxes, strict=True)]
    back = {
        number: Placement(cut.page, cut.rect, box)
        for number, (cut, box, part) in enumerate(zip(cuts, boxes, shown, strict=True))
        if cut and box and part is None
    }
    whole = all(place.box.size == frames[number].size for number, place in back.items())
    last, sizes = len(pages) - 1, list(pages)
    homeless = [number for number in range(len(frames)) if number not in back]
    if homeless:
        held = [cut.rect for cut in gone if cut.page == last]
        room = _Room(sizes[last], [*held, *(p.rect for p in back.values() if p.page == last)], drawn(), step)
        for number in homeless:
            box = Rect(0, 0, *frames[number].size) if whole else room.divided(shown[number], frames[number].size)
            cut = cuts[number]
            corner = (
                None if cut is None or cut.page != last else (cut.rect.x - cut.offset[0], cut.rect.y - cut.offset[1])
            )
            back[number] = Placement(last, room.taken_for(box, corner), box)
        sizes[last] = room.size
    return PlacedBack(tuple(sizes), tuple(back[number] for number in range(len(frames))), None, tuple(homeless))


def _corner(cut: CutFrom | None, page: int) -> tuple[int, int] | None:
    """The place on the page where the canvas of a sliced frame began."""
    return (cut.rect.x - cut.offset[0], cut.rect.y - cut.offset[1]) if cut and cut.page == page else None


def _shown(frame: FrameSource, box: Rect | None) -> Rect | None:
    """Return what is visible of a frame that has no place, or that is painted beside the one that it had; else None."""
    if box is None or not box.fits(frame.size):
        return opaque_bounds(frame.load()) or Rect(0, 0, 1, 1)
    if box.size == frame.size:
        return None
    alpha = frame.load()[..., 3:].copy()
    box.of(alpha)[...] = 0
    return opaque_bounds(frame.load()) if alpha.any() else None


class _Room:
    """A page, and what is taken of it."""

    def __init__(self, size: Size, rects: Sequence[Rect], drawn: Pixels | None, step: int) -> None:
        self._taken = np.zeros((size.h, size.w), np.bool_) if drawn is None else drawn[..., 3] > 0
        self._step = step
        for rect in rects:
            self._take(rect)

    @property
    def size(self) -> Size:
        height, width = self._taken.shape
        return Size(width, height)

    def divided(self, box: Rect | None, canvas: Size) -> Rect:
        """A box of a canvas, grown until smaller maps divide by it."""
        box = box or Rect(0, 0, *canvas)
        left, top = box.x - box.x % self._step, box.y - box.y % self._step
        right, bottom = (-(-value // self._step) * self._step for value in (box.right, box.bottom))
        return Rect(left, top, min(right, canvas.w) - left, min(bottom, canvas.h) - top)

    def taken_for(self, box: Rect, corner: tuple[int, int] | None) -> Rect:
        """A place for a box, around the one that it had if that is free; its canvas had this corner."""
        own = None if corner is None else Rect(corner[0] + box.x, corner[1] + box.y, *box.size)
        if own is None or not self._is_free(own):
            own = free_place(self._taken, box.size, around=_APART, step=self._step) or self._below(box.size)
        self._take(own)
        return own

    def _is_free(self, rect: Rect) -> bool:
        divides = rect.x % self._step == rect.y % self._step == 0
        return divides and rect.fits(self.size) and not rect.of(self._taken).any()

    def _below(self, size: Size) -> Rect:
        """A place below all others, for which the page grows."""
        height, width = self._taken.shape
        y = height + -(-_APART // self._step) * self._step
        y = -(-y // self._step) * self._step
        bottom = -(-(y + size.h) // self._step) * self._step
        grown = np.zeros((bottom, max(width, size.w)), np.bool_)
        grown[:height, :width] = self._taken
        self._taken = grown
        return Rect(0, y, *size)

    def _take(self, rect: Rect) -> None:
        self._taken[rect.y : rect.bottom, rect.x : rect.right] = True


def back_in_rows(
    frames: Sequence[FrameSource],
    cuts: Sequence[CutFrom | None],
    clips: Sequence[Clip],
    grid: GridInfo,
    around: GridInfo | None = None,
) -> PlacedBack | None:
    """Return each row with the clip that it held, however many frames that has now; None unless each row is a clip.

    A shorter one leaves cells free at its end, a longer one makes all rows longer. Frames of no clip are in rows below.
    What lies `around` cells may be another than that of the grid that they were in.
    """
    cells = grid.cells()
    rows = [cells.place_of(cut.rect)[0] if cut else None for cut in cuts]
    of_clip: dict[int, Sequence[int]] = {}
    for clip in clips:
        within = {row for frame in clip.own_frames if (row := rows[frame]) is not None}
        only = within.pop() if len(within) == 1 else None
        if only is None or only in of_clip:
            return None
        of_clip[only] = clip.own_frames
    placed = {frame for own in of_clip.values() for frame in own}
    others = [number for number in range(len(frames)) if number not in placed]
    if len(of_clip) < 2 or grid.fill != "across" or any(rows[number] is not None for number in others):
        return None
    columns = max(grid.columns, *map(len, of_clip.values()))
    cell = Size(max(grid.cell[0], *(f.size.w for f in frames)), max(grid.cell[1], *(f.size.h for f in frames)))
    places = {frame: (row, column) for row, own in of_clip.items() for column, frame in enumerate(sorted(own))}
    places |= {frame: (grid.rows + n // columns, n % columns) for n, frame in enumerate(others)}
    grid = replace(around or grid, columns=columns, rows=grid.rows + -(-len(others) // columns), cell=cell)
    cells = grid.cells()
    rects = [cells.cell_rect(row * columns + column) for row, column in (places[n] for n in range(len(frames)))]
    placements = [
        Placement(0, Rect(rect.x, rect.y, *frame.size), Rect(0, 0, *frame.size))
        for rect, frame in zip(rects, frames, strict=True)
    ]
    moved = tuple(
        n for n, (cut, place) in enumerate(zip(cuts, placements, strict=True)) if not cut or cut.rect != place.rect
    )
    return PlacedBack((cells.size,), tuple(placements), grid, moved)
