"""Plans: which layouts a sequence could have."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from kivel.core.contents import CONTENTS
from kivel.core.errors import UsageError, option
from kivel.core.layout.choices import largest_cell, next_page_down, thinned_lengths, worth_having
from kivel.core.layout.sheet_plan import SheetRequest
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import widened
from kivel.core.wording import counted
from kivel.files.png.ways import COMPRESSIONS
from kivel.files.png.write import encode_png
from kivel.making.motion.motion_counts import COUNTS, Counting
from kivel.making.motion.motion_maps import looked_at
from kivel.making.options.plan_options import PlanOptions
from kivel.sequences.matching import matched
from kivel.sequences.opening import open_sources
from kivel.sequences.sequence import require_straight

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from kivel.core.layout.choices import LargestCell, NextPage, WorthHaving
    from kivel.core.motion.motion_count import MotionCount
    from kivel.core.option_words import Compress
    from kivel.core.pixels.pixels import Size
    from kivel.files.images import FrameSource
    from kivel.making.work import Work
    from kivel.sequences.sequence import FrameSequence

__all__ = ["WHY", "PlanMade", "make_plan"]

_MOST_SAMPLED, _FEWEST = 6, 3
WHY = "least area among sheets at most twice as long as wide, then closest to a square"
"""Says what makes a layout the best."""
_SHARED = (
    "sources", "range", "layers-as", "exposure", "odd-size", "align", "cell", "gap", "margin", "skirt", "skirt-wrap",
    "mip-safe", "page-limit", "divided",
)  # fmt: skip
"""Options that a sheet has too."""


class PlanMade(NamedTuple):
    """The layouts worth having of this many frames of a size; what fits the page asked for, and the next pages down.

    `counts` are what is missed of frames that are left out, by how many are kept; `enough` are the fewest that do, with
    motion and without. `file_bytes` are about how long the files will be, by how hard they are compressed, judged by so
    many `sampled` frames; nothing of float frames. `as_they_are` is how many fit that page at their size; of each
    layout, and of both ways to fit, `commands` are the options by which `sheet` makes it.
    """

    name: str
    frames: int
    size: Size
    layouts: tuple[WorthHaving, ...]
    page: Size | None
    fitting: LargestCell | None
    as_they_are: int
    commands: tuple[dict[str, list[str]], ...]
    fitting_commands: tuple[dict[str, list[str]], ...]
    next_pages: tuple[NextPage, ...]
    notes: tuple[str, ...]
    file_bytes: Mapping[Compress, int]
    sampled: int
    counts: tuple[MotionCount, ...] = ()
    enough: tuple[int, int] | None = None


def make_plan(options: PlanOptions, work: Work) -> PlanMade:
    """Find layouts.

    Raises
    ------
    KivelError
        What the options or the sources do not allow.
    """
    request = SheetRequest(spacing=options.spacing(), rule=options.page_rule(), divided=options.divided)
    sequence = open_sources(options.sources, options.source_settings(work, keep_float=True))
    sequence = matched(sequence, odd_size=options.odd_size, align=options.align)
    work.hear(sequence)
    count, frame = len(sequence.frames), sequence.frames[0].size
    cell = options.cell or frame
    layouts = worth_having(count, cell, request)
    fitting = largest_cell([count], frame, options.fit_page, request) if options.fit_page else None
    kept = thinned_lengths([count], cell, options.fit_page, request) if options.fit_page else None
    pages = [options.fit_page] if options.fit_page else _powers_of_two(layouts)
    sampled = _sampled(count) if sequence.depth < 32 else []
    counts, enough = _motion_counts(options, work, sequence) if options.motion else ((), None)
    return PlanMade(
        name=sequence.stem,
        frames=count,
        size=frame,
        layouts=tuple(layouts),
        page=options.fit_page,
        fitting=fitting,
        as_they_are=sum(kept or ()),
        commands=tuple(_command(options, sequence.stem, _options_of(one)) for one in layouts),
        fitting_commands=tuple(
            _command(options, sequence.stem, {"fit-page": str(options.fit_page), **more})
            for more in ({}, {"fit-by": "thin"})
            if options.fit_page
        ),
        next_pages=tuple(next_page_down(count, cell, page, request) for page in pages),
        notes=tuple(work.notes),
        file_bytes=_file_bytes([sequence.frames[index] for index in sampled], count),
        sampled=len(sampled),
        counts=counts,
        enough=enough,
    )


def _motion_counts(
    options: PlanOptions, work: Work, sequence: FrameSequence
) -> tuple[tuple[MotionCount, ...], tuple[int, int] | None]:
    """Return what is missed by this many frames, and how few will do."""
    require_straight(sequence, option("motion", True))
    length, kind = len(sequence.frames), CONTENTS[sequence.content].kind
    if length < _FEWEST:
        raise UsageError(f"{option('motion', True)}: {counted(length, 'frame')}, and none can be left out")
    loops, wraps, jobs = not options.one_shot, options.tile, options.threads
    looked = looked_at(sequence, kind=kind, loops=loops, wraps=wraps, work=work, jobs=jobs)
    if loops and not looked.closes:
        loops = False
        work.note(f"its end does not lead into its start: treated as a one-shot, as with {option('one-shot', True)}")
    counting = Counting(sequence, looked, loops=loops, wraps=wraps, kind=kind, work=work, jobs=jobs)
    found = tuple(counting.of(count) for count in COUNTS if count < length)
    if options.error is None:
        return found, None
    enough = [counting.within(options.error, warps=warps, known=found) for warps in (True, False)]
    return found, (enough[0], enough[1])


def _sampled(count: int) -> list[int]:
    """A few frames, from everywhere."""
    return sorted({(2 * number + 1) * count // (2 * _MOST_SAMPLED) for number in range(_MOST_SAMPLED)})


def _file_bytes(frames: Sequence[FrameSource], count: int) -> dict[Compress, int]:
    """Return the values of all frames, from those of some that are stored as one picture."""
    if not frames:
        return {}

    depth = max(frame.depth for frame in frames)
    picture = np.concatenate([widened(frame.load(), depth) for frame in frames])
    return {
        compress: sum(map(len, encode_png(picture, compress=compress))) * count // len(frames)
        for compress in COMPRESSIONS
    }


def _powers_of_two(layouts: list[WorthHaving]) -> list[Size]:
    """The page of powers of two that would be taken, to ask the next one down of."""
    return [one.plan.page for one in layouts if "power of two" in one.label and one.plan.pages == 1][:1]


def _options_of(one: WorthHaving) -> dict[str, str]:
    """Return what makes `sheet` lay its frames out so."""
    labels = one.label.split(", ")
    given: dict[str, str] = {}
    if "best" in labels:
        return given
    if "multiple of 4" in labels:
        given["multiple-of"] = "4"
    given |= {"square": "True"} if any("square" in label for label in labels) else {}
    given |= {"pow2": "True"} if any("power of two" in label for label in labels) else {}
    given |= {"divided": "True"} if any("divided" in label for label in labels) else {}
    return given or {"columns": str(one.plan.grid.columns)}


def _command(options: PlanOptions, stem: str, more: dict[str, str]) -> dict[str, list[str]]:
    """The options of a `sheet` of the same frames: those that were given here, and more."""
    given = {name: texts for name, texts in options.texts.items() if name in _SHARED and name not in more}
    return {**given, "out": [f"{stem}.png"], **{name: [text] for name, text in more.items()}}
