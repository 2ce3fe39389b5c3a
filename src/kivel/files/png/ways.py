"""How to store an image: the form, the row filter and the way to deflate, chosen by what really compresses.

A few samples of its rows are filtered and deflated in every way that may win. One filter serves the whole image: the
usual choice row by row, by the least absolute sum, is worse than a constant one.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import accumulate
from typing import get_args

import numpy as np
from numpy.typing import NDArray

from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import Compress
from kivel.core.pixels.pixels import Pixels
from kivel.files.png import deflate
from kivel.files.png.chunks import PALETTE
from kivel.files.png.filters import ROW_FILTERS, Block
from kivel.files.png.raster import Form, Raster

__all__ = ["COMPRESSIONS", "Way", "filtered_rows", "way_for", "with_row_above"]

COMPRESSIONS: tuple[Compress, ...] = get_args(Compress)

_NONE, _SUB, _UP, _AVERAGE, _PAETH = range(5)
_SAMPLE_ROWS = 4
_WORK_ROWS = 16
_GOLDEN = 0.6180339887498949
"""Places at its multiples, less the whole ones, lie evenly and in step with nothing: evenly spaced ones fall on the
borders of cells."""


class Way(NamedTuple):
    """A filter type for all rows, and compressors at which bands take turns."""

    form: Form
    kind: int
    cycle: tuple[deflate.Compressor, ...]


class _Tried(NamedTuple):
    """One manner of deflating: `probe` tells filter types apart, `judge` what the manner is worth.

    One that takes longer has to be shorter by more: its lengths count that many times over. Where compressors take
    turns, the first is the judge, and the others make less of it.
    """

    probe: deflate.Compressor
    judge: deflate.Compressor
    cycle: tuple[deflate.Compressor, ...]
    counts_times: float = 1


class _Effort(NamedTuple):
    """How hard to look: this many samples, the filter types of pictures and of palettes, the manners of deflating."""

    places: int
    kinds: tuple[int, ...]
    palette_kinds: tuple[int, ...]
    manners: tuple[_Tried, ...]
    palette_manners: tuple[_Tried, ...]


def _matched(probe: deflate.Compressor, *levels: int, counts_times: float = 1) -> _Tried:
    compressors = tuple(map(deflate.level, levels))
    return _Tried(probe, compressors[0], compressors, counts_times)


_QUICK = deflate.level(3)
_RUNS = _Tried(deflate.runs, deflate.runs, (deflate.runs,))
_KINDS = (_UP, _AVERAGE, _PAETH, _SUB, _NONE)
"""The earlier wins a tie."""
_FAST = _Effort(
    6, _KINDS, (_NONE,), (_matched(deflate.level(2), 2, 3, counts_times=0.965), _RUNS), (_matched(_QUICK, 6),)
)
_SMALL = _Effort(
    10, _KINDS, (_NONE, _UP, _SUB), (_matched(_QUICK, *[6] * 6, 7), _matched(_QUICK, 7, counts_times=1.016), _RUNS),
    (_matched(_QUICK, 9),),
)  # fmt: skip
_EFFORTS: dict[Compress, _Effort] = {"fast": _FAST, "small": _SMALL, "least": _SMALL}
_WORTH = 0.98
"""Paeth takes longer, and looks a little better in samples, which hold fewer matches than the page: it has to win by so
much. What saves time alone may lose by as much as that."""


def way_for(image: Pixels, forms: Sequence[Form], compress: Compress) -> Way:
    """The way by which samples of the image become smallest.

    Parameters
    ----------
    forms : sequence of Form
        That store it without loss, the leanest first. Under "fast" that one is taken.
    """
    effort = _EFFORTS[compress]
    places = _places(len(image), effort.places)
    found = [_tried(image, form, places, effort) for form in (forms[:1] if compress == "fast" else forms)]
    share = sum(min(_SAMPLE_ROWS, len(image) - place) for place in places) / len(image)
    return min(found, key=lambda one: one[0] / share + _palette_bytes(one[1].form))[1]


def _palette_bytes(form: Form) -> int:
    return 0 if form.palette is None else form.palette.table.size


def _places(height: int, count: int) -> list[int]:
    """First rows of samples; all rows where there are few."""
    if height <= count * _SAMPLE_ROWS:
        return list(range(0, height, _SAMPLE_ROWS))
    return sorted({int((number * _GOLDEN + 0.5) % 1 * (height - _SAMPLE_ROWS + 1)) for number in range(count)})


def _tried(image: Pixels, form: Form, places: Sequence[int], effort: _Effort) -> tuple[float, Way]:
    """The best way for one form, and how long the samples are in it."""
    blocks = [_sample(image, form, place) for place in places]
    step = Raster(image[:1], form).step
    is_palette = form.colour == PALETTE
    # bits of several pixels in a byte have nothing to do with their neighbours'
    kinds = effort.kinds if not is_palette else effort.palette_kinds if form.depth == 8 else (_NONE,)
    filtered = {kind: _filtered_samples(blocks, step, kind) for kind in kinds}
    best: tuple[float, Way] | None = None
    probed: dict[deflate.Compressor, int] = {}
    for manner in effort.palette_manners if is_palette else effort.manners:
        if manner.probe not in probed:
            probed[manner.probe] = _best_kind(kinds, filtered, manner.probe)
        kind = probed[manner.probe]
        length = len(manner.judge(filtered[kind], True)) * manner.counts_times
        if best is None or length < best[0]:
            best = length, Way(form, kind, manner.cycle)
    assert best is not None
    length, way = best
    if way.cycle == _RUNS.cycle and len(deflate.counts(filtered[way.kind], True)) * _WORTH < length:
        way = way._replace(cycle=(deflate.counts,))  # quicker still
    return length, way


def _best_kind(kinds: Sequence[int], filtered: Mapping[int, memoryview], probe: deflate.Compressor) -> int:
    if len(kinds) == 1:
        return kinds[0]
    return min(kinds, key=lambda kind: len(probe(filtered[kind], True)) / (_WORTH if kind == _PAETH else 1))


def _sample(image: Pixels, form: Form, place: int) -> Block:
    """A few rows with the one above."""
    rows = Raster(image[max(place - 1, 0) : place + _SAMPLE_ROWS], form)
    return with_row_above(rows.rows(0, rows.header.height), is_first=place == 0)


def with_row_above(rows: NDArray[np.uint8], *, is_first: bool) -> Block:
    """Above the first row of an image there are zeros."""
    return np.concatenate((np.zeros((1, rows.shape[1]), np.uint8), rows)) if is_first else rows


def _filtered_samples(blocks: Sequence[Block], step: int, kind: int) -> memoryview:
    ends = [0, *accumulate(len(block) - 1 for block in blocks)]
    filtered = np.empty((ends[-1], blocks[0].shape[1] + 1), np.uint8)
    for block, first, last in zip(blocks, ends, ends[1:], strict=False):
        filtered_rows(block, step, kind, filtered[first:last])
    return filtered.reshape(-1).data


def filtered_rows(block: Block, step: int, kind: int, out: NDArray[np.uint8]) -> None:
    """Every row of a block but the one above, with its filter type in front; few at a time, which stay in the cache."""
    out[:, 0] = kind
    for row in range(0, len(out), _WORK_ROWS):
        stop = min(row + _WORK_ROWS, len(out))
        ROW_FILTERS[kind](block[row : stop + 1], step, out[row:stop, 1:])
