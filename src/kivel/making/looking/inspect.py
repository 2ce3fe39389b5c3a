"""Inspection: what is there, whatever it is."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from kivel.core.errors import KivelError, UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.files.manifest.parsing import read_manifest
from kivel.files.manifest.schema import schema_text
from kivel.files.output_set import OutputSet
from kivel.files.ownership import meant_manifest, page_of
from kivel.files.png.write import encode_png
from kivel.files.safety import shown
from kivel.making.cutting.dividing import found_ways
from kivel.making.options.inspect_options import InspectOptions
from kivel.sequences.choosing import chosen_series, listed_series
from kivel.sequences.finding import series_in
from kivel.sequences.inspection import check_pages, inspect_frames
from kivel.sequences.made_motion import MotionMade, stored_pairs
from kivel.sequences.opening import open_sources

if TYPE_CHECKING:
    from kivel.files.output_set import Written
    from kivel.making.cutting.dividing import FoundWay
    from kivel.making.work import Work
    from kivel.sequences.choosing import ListedSeries
    from kivel.sequences.inspection import Inspection, PageCheck
    from kivel.sequences.made_motion import MotionMade
    from kivel.sequences.sequence import FrameSequence

__all__ = ["InspectMade", "make_inspect"]

_LOOKED_AT = 8_000_000
"""Pixels: how a larger picture divides takes seconds to find, and `slice` does."""


class InspectMade(NamedTuple):
    """Holds what is there, if it can be looked at; whether the pages of a manifest are as stated; the chart that was
    drawn.

    `schema` is the JSON Schema, where that was asked for. A folder of several `series` is listed, not looked at. Of one
    plain image, `found` is how it may divide, the likeliest first.
    """

    inspection: Inspection | None
    pages: tuple[PageCheck, ...]
    files: tuple[Written, ...]
    notes: tuple[str, ...]
    schema: str | None = None
    series: tuple[ListedSeries, ...] = ()
    found: tuple[FoundWay, ...] = ()

    @property
    def is_as_stated(self) -> bool:
        return all(page.state == "as stated" for page in self.pages)


def make_inspect(options: InspectOptions, work: Work) -> InspectMade:
    """Look at sources.

    Raises
    ------
    KivelError
        What the options, the sources or the disk do not allow.
    """
    if options.schema:
        return InspectMade(None, (), (), (), schema_text())
    listed = _several(options, work)
    if listed:
        return InspectMade(None, (), (), tuple(work.notes), series=tuple(listed))
    sources = _meant(options, work)
    try:
        inspection = _inspection(options, work, sources)
    except KivelError:
        pages = _checked_pages(options, sources)
        if all(page.state in ("as stated", "other pixels") for page in pages):
            raise
        return InspectMade(None, pages, (), ())
    # behind it, while its frames hold their pages: these are decoded once
    pages = _checked_pages(options, sources)
    inspection = inspection._replace(pages=pages)
    work.hear(inspection.frames)
    files = _chart(options, work, inspection) if options.chart else ()
    found = _found(inspection, sources)
    return InspectMade(inspection, pages, files, tuple(work.notes), found=found)


def _found(inspection: Inspection, sources: tuple[str, ...]) -> tuple[FoundWay, ...]:
    """How one plain image may divide, if it is not too large to say so at once."""
    frames = inspection.frames.frames
    (path, *others) = sources
    if others or len(frames) > 1 or Path(path).is_dir() or path.endswith(".json"):
        return ()
    if frames[0].size.w * frames[0].size.h > _LOOKED_AT:
        return ()

    return found_ways(frames[0].load())[0]


def _several(options: InspectOptions, work: Work) -> list[ListedSeries]:
    """The series of a folder or a pattern that holds several, unless one is picked."""
    if len(options.sources) != 1:
        return []
    settings = options.source_settings(work)._replace(series=True)
    named = series_in(options.sources[0], settings)
    if options.series is not None and named:
        named = chosen_series(named, settings, options.sources[0])
    return listed_series(named, settings) if len(named) > 1 else []


def _meant(options: InspectOptions, work: Work) -> tuple[str, ...]:
    """The sources; a sheet that its manifest knows means that."""
    if len(options.sources) != 1 or Path(options.sources[0]).is_dir():
        return options.sources
    path = meant_manifest(Path(options.sources[0]))
    if shown(path) == shown(Path(options.sources[0])):
        return options.sources
    work.note(f"{options.sources[0]}: a page of {shown(path)}, which is inspected")
    return (str(path),)


def _checked_pages(options: InspectOptions, sources: tuple[str, ...]) -> tuple[PageCheck, ...]:
    """Return what became of a manifest's pages; nothing for other sources."""
    if len(sources) != 1 or not sources[0].endswith(".json"):
        return ()

    path = Path(sources[0])
    return check_pages(read_manifest(path), path, max_pixels=options.pixel_limit)


def _inspection(options: InspectOptions, work: Work, sources: tuple[str, ...]) -> Inspection:
    sequence = open_sources(sources, options.source_settings(work, keep_float=True)._replace(with_motion=True))
    with work.progress("reading frames", len(sequence.frames)) as advance:
        found = inspect_frames(sequence, jobs=options.threads, advance=advance)
    return found._replace(vectors=_vectors(options, work, sequence))


def _vectors(options: InspectOptions, work: Work, sequence: FrameSequence) -> MotionMade | None:
    """The map of motion, and how far each pair is to be trusted."""
    known = next((one for one in sequence.maps if one.motion), None)
    if known is None or known.motion is None:
        return None

    with work.progress("looking at motion", len(known.motion.pairs)) as advance:
        return MotionMade(known, tuple(stored_pairs(sequence, known, jobs=options.threads, advance=advance)))


def _chart(options: InspectOptions, work: Work, inspection: Inspection) -> tuple[Written, ...]:
    from kivel.views.inspection_chart import draw_inspection

    if inspection.motion is None:
        raise UsageError(f"{option('chart')} needs two frames or more, all of one size")
    with OutputSet(
        force=options.force, is_ours=lambda _path: False, page_of=page_of, tell=work.note, placed=work.placed
    ) as out:
        out.reads(inspection.frames.files())
        drawn = draw_inspection(inspection, lambda index: inspection.frames.frames[index].load())
        out.add(Path(options.chart or ""), encode_png(drawn, compress="small"))
    return tuple(out.written)
