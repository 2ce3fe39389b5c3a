"""Describes what lies in the cells of many grids over one picture, from sums between all their edges taken once."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.slicing.lattice import Edges, Lattice, Run

__all__ = ["CellSums", "OfCells", "cell_sums"]

_ROWS_AT_ONCE = 256

Values = NDArray[np.float64]


class OfCells(NamedTuple):
    """How many cells are not empty; how much the centres of what is drawn differ in x and y, as a share of the cell;
    and the share of cells that are touched by it at 1, 2 and 3 of their edges or more."""

    filled: int
    spread_x: float
    spread_y: float
    touched: tuple[float, float, float]


class CellSums:
    """Holds what is drawn left of and above every edge: how many pixels, and the sums of their x and y, (3, ys, xs)."""

    def __init__(self, xs: Edges, ys: Edges, sums: Values) -> None:
        self._xs, self._ys, self._sums = xs, ys, sums
        self._of_rows: dict[Run, tuple[_Places, Values]] = {}
        self._of_columns: dict[Run, tuple[_Places, Values]] = {}

    def of(self, lattice: Lattice) -> OfCells:
        """Return what lies in the cells of a grid of two of the runs that the sums were taken for."""
        down, rows = self._rows(lattice.down)
        across, columns = self._columns(lattice.across)
        count, of_x, of_y = rows[:, :, across.ends] - rows[:, :, across.starts]
        filled = count > 0
        if not filled.any():
            return OfCells(0, 0.0, 0.0, (0.0, 0.0, 0.0))
        inside = count[filled]
        spread_x, spread_y = (
            float(np.std((sums[filled] / inside - np.broadcast_to(middle, filled.shape)[filled]) / float(run.cell)))
            for sums, middle, run in (
                (of_x, across.middles, lattice.across),
                (of_y, down.middles[:, None], lattice.down),
            )
        )
        touched = (
            (rows[0][:, across.seconds] > rows[0][:, across.starts]).astype(np.int8)
            + (rows[0][:, across.ends] > rows[0][:, across.lasts])
            + (columns[down.seconds] > columns[down.starts])
            + (columns[down.ends] > columns[down.lasts])
        )[filled]
        once, twice, thrice = (float(np.mean(touched >= least)) for least in (1, 2, 3))
        return OfCells(len(inside), spread_x, spread_y, (once, twice, thrice))

    def _rows(self, run: Run) -> tuple[_Places, Values]:
        """Sums over each row of cells, up to every x."""
        if run not in self._of_rows:
            places = _places(run, self._ys)
            self._of_rows[run] = places, self._sums[:, places.ends] - self._sums[:, places.starts]
        return self._of_rows[run]

    def _columns(self, run: Run) -> tuple[_Places, Values]:
        """Counts over each column of cells, down to every y."""
        if run not in self._of_columns:
            places = _places(run, self._xs)
            self._of_columns[run] = places, self._sums[0][:, places.ends] - self._sums[0][:, places.starts]
        return self._of_columns[run]


class _Places(NamedTuple):
    """Where among all edges those of a run's cells are: their first pixel, the next, the last, and the end."""

    starts: Edges
    seconds: Edges
    lasts: Edges
    ends: Edges
    middles: Values


def _places(run: Run, edges: Edges) -> _Places:
    starts, ends = _within(run, int(edges[-1]))
    first, second, last, end = (np.searchsorted(edges, place) for place in (starts, starts + 1, ends - 1, ends))
    return _Places(first, second, last, end, (starts + ends) / 2)


def cell_sums(seen: NDArray[np.bool_], across: list[Run], down: list[Run]) -> CellSums:
    """The sums for all grids of these runs.

    Parameters
    ----------
    seen : (H, W) bool array
        What is drawn.
    """
    height, width = seen.shape
    xs, ys = _all_edges(across, width), _all_edges(down, height)
    x = np.arange(width, dtype=np.float32) + 0.5
    count, of_x = np.empty((2, height, len(xs) - 1))
    for start in range(0, height, _ROWS_AT_ONCE):
        stop = start + _ROWS_AT_ONCE
        count[start:stop] = np.add.reduceat(seen[start:stop], xs[:-1], axis=1, dtype=np.int32)
        of_x[start:stop] = np.add.reduceat(seen[start:stop] * x, xs[:-1], axis=1, dtype=np.float64)
    of_y = count * (np.arange(height)[:, None] + 0.5)
    sums = np.zeros((3, len(ys), len(xs)))
    for channel, values in enumerate((count, of_x, of_y)):
        sums[channel, 1:, 1:] = np.add.reduceat(values, ys[:-1], axis=0)
    return CellSums(xs, ys, sums.cumsum(axis=1).cumsum(axis=2))


def _within(run: Run, length: int) -> tuple[Edges, Edges]:
    """Edges cut to the picture; a cell keeps at least a pixel of it."""
    starts, ends = run.edges()
    starts = np.minimum(starts, length - 1)
    return starts, np.clip(ends, starts + 1, length)


def _all_edges(runs: list[Run], length: int) -> Edges:
    """Every place at which a cell begins or ends, and the next pixel inside, with both ends of the side."""
    found = [np.array([0, length])]
    for run in set(runs):
        starts, ends = _within(run, length)
        found += [starts, starts + 1, ends - 1, ends]
    return np.unique(np.concatenate(found))
