"""Loops: judged, found and closed."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from kivel.core.errors import UsageError, option
from kivel.core.looping.closing import closed
from kivel.core.looping.seam import judge_seam, tile_seam
from kivel.core.looping.search import best_windows
from kivel.core.looping.signature import planes_of
from kivel.core.named_tuples import NamedTuple
from kivel.core.resampling import Span
from kivel.making.frames.frame_files import NewFrames, signed, write_frames
from kivel.making.frames.resampled_frames import new_frames
from kivel.making.options.loop_options import LoopOptions
from kivel.sequences.clips import ClipSet, clip_over, lost_clips, stated_holds
from kivel.sequences.matching import matched
from kivel.sequences.opening import open_sources
from kivel.sequences.pairing import open_with_maps
from kivel.sequences.sequence import require_straight, straightened
from kivel.sequences.signatures import signatures_of

if TYPE_CHECKING:
    from kivel.core.looping.seam import Seam, TileSeam
    from kivel.core.looping.search import Window
    from kivel.core.pixels.pixels import Pixels
    from kivel.core.playback.clip import Clip
    from kivel.core.resampling import Span
    from kivel.files.manifest.model import Manifest
    from kivel.files.output_set import Written
    from kivel.making.frames.frame_files import FrameFolder
    from kivel.making.work import Work
    from kivel.sequences.sequence import FrameSequence

__all__ = ["JudgedTile", "LoopMade", "make_loop"]


class JudgedTile(NamedTuple):
    """A tile's image, and how its sides meet."""

    source: str
    seam: TileSeam


class LoopMade(NamedTuple):
    """What was found: the seam of the whole and the windows that loop best, or how tiles meet.

    `numbers` are what frames are called by. Where frames were made: files with what became of each, the manifest, and
    the seam `closed` under a cross-fade; `images` by name where nothing was written.
    """

    name: str
    numbers: tuple[int, ...]
    clips: tuple[Clip, ...]
    seam: Seam | None
    windows: tuple[Window, ...]
    tiles: tuple[JudgedTile, ...]
    notes: tuple[str, ...]
    files: tuple[Written, ...] = ()
    manifest: Manifest | None = None
    closed: Seam | None = None
    images: dict[str, Pixels] | None = None


def make_loop(options: LoopOptions, work: Work) -> LoopMade:
    """Judge a sequence or a tile; find and close loops.

    Raises
    ------
    KivelError
        What the options, the sources or the disk do not allow; nothing is written then.
    """
    settings = options.source_settings(work, keep_float=True)
    if options.makes_frames:
        neutral = options.missing_map == "neutral"
        sequence = open_with_maps(options.sources, options.map_requests(), settings, neutral=neutral)
    else:
        sequence = open_sources(options.sources, settings)
    sequence = matched(sequence, odd_size=options.odd_size, align=options.align)
    work.hear(sequence)
    if sequence.is_in_parts:
        name = sequence.clips[0].name
        work.note(f"its {len(sequence.clips)} clips are taken as one; {option('series', name)} takes the frames of one")
    if options.sides or (len(sequence.frames) == 1 and not options.makes_frames):
        return _tiles(work, sequence)
    if options.close:
        require_straight(sequence, option("close"))
    with work.progress("reading frames", len(sequence.frames)) as advance:
        # small pictures of all frames: a thousand frames as they are would not fit
        signatures = signatures_of(sequence, jobs=options.threads, advance=advance)
    seam = judge_seam(signatures)
    windows = best_windows(signatures, *options.find, room=options.close or 0) if options.find else []
    found = LoopMade(
        name=sequence.stem,
        numbers=tuple(sequence.numbers),
        clips=sequence.clips,
        seam=seam,
        windows=tuple(windows),
        tiles=(),
        notes=(),
    )
    if not options.makes_frames:
        return found._replace(notes=tuple(work.notes))
    folder, closed = _written(options, work, sequence, _chosen(options, windows, len(signatures)))
    return found._replace(
        notes=tuple(work.notes),
        files=folder.files,
        manifest=folder.manifest,
        closed=closed,
        images=folder.images,
    )


def _tiles(work: Work, sequence: FrameSequence) -> LoopMade:
    frames = straightened(sequence).frames
    return LoopMade(
        name=sequence.stem,
        numbers=tuple(sequence.numbers),
        clips=sequence.clips,
        seam=None,
        windows=(),
        tiles=tuple(JudgedTile(frame.source, tile_seam(planes_of(frame.load()))) for frame in frames),
        notes=tuple(work.notes),
    )


def _chosen(options: LoopOptions, windows: Sequence[Window], total: int) -> list[Span]:
    """The window picked, or the whole but for what is faded in, closed by a cross-fade if asked."""
    fade = options.close or 0
    first, length = 0, total - fade
    if options.find:
        rank = options.pick or 1
        if rank > len(windows):
            raise UsageError(f"{option('pick', rank)}: {option('find')} found {len(windows)} windows")
        first, length = windows[rank - 1].first, windows[rank - 1].length
    return [Span(float(first + index), shares) for index, shares in enumerate(closed(first, length, fade, total))]


def _written(
    options: LoopOptions, work: Work, sequence: FrameSequence, spans: Sequence[Span]
) -> tuple[FrameFolder, Seam | None]:
    """The frames of a loop, and its seam if it was closed."""
    work.note(*lost_clips(sequence))
    holds = stated_holds(sequence)
    kind = options.content(sequence).kind
    made, signatures = signed(new_frames(sequence, spans, kind=kind, warps=not options.fade))
    clip = clip_over(sequence, [holds[int(span.position)] for span in spans])
    new = NewFrames.made_of(sequence, made, ClipSet((clip,)), kind=options.content(sequence).name)
    folder = write_frames(options, work, new, command="loop")
    return folder, judge_seam(signatures()) if options.close else None
