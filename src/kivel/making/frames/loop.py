"""Loops: judged, found and closed."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import accumulate
from typing import TYPE_CHECKING

from kivel.core.errors import UsageError, option
from kivel.core.looping.closing import closed
from kivel.core.looping.seam import judge_seam, tile_seam
from kivel.core.looping.search import best_windows
from kivel.core.looping.signature import planes_of
from kivel.core.named_tuples import NamedTuple
from kivel.core.resampling import Span
from kivel.making.frames.frame_files import NewFrame, NewFrames, signed, unchanged, write_frames
from kivel.making.frames.resampled_frames import new_frames
from kivel.making.options.loop_options import LoopOptions
from kivel.sequences.between_frames import faded_kind
from kivel.sequences.clip_parts import ClipPart, clip_parts, clips_together
from kivel.sequences.clips import ClipSet, clip_over, lost_clips, stated_holds
from kivel.sequences.matching import matched
from kivel.sequences.opening import open_sources
from kivel.sequences.pairing import open_with_maps
from kivel.sequences.sequence import all_fades, require_straight, straightened
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
    from kivel.sequences.reconciling.frame_edits import FrameEdit
    from kivel.sequences.sequence import FrameSequence

__all__ = ["JudgedTile", "LoopMade", "make_loop"]


class JudgedTile(NamedTuple):
    """A tile's image, and how its sides meet."""

    source: str
    seam: TileSeam


class LoopMade(NamedTuple):
    """Holds what was found: the seam of the whole and the windows that loop best, or how tiles meet.

    `numbers` are what frames are called by. Where frames were made: files with what became of each, the manifest, and
    the seam `closed` under a cross-fade; `images` by name where nothing was written. Of several clips each is one of
    the `parts`. `edits` are what was done to the frames since a manifest said something of them.
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
    parts: tuple[LoopMade, ...] = ()
    edits: tuple[FrameEdit, ...] = ()


def make_loop(options: LoopOptions, work: Work) -> LoopMade:
    """Judge a sequence or a tile; find and close loops.

    Raises
    ------
    KivelError
        What the options, the sources or the disk do not allow; nothing is written then.
    """
    settings = options.source_settings(work, keep_float=True, several=True)
    if options.makes_frames:
        neutral = options.missing_map == "neutral"
        sequence = open_with_maps(options.sources, options.map_requests(), settings, neutral=neutral)
    else:
        sequence = open_sources(options.sources, settings)
    sequence = matched(sequence, odd_size=options.odd_size, align=options.align)
    work.hear(sequence)
    if options.sides or (len(sequence.frames) == 1 and not options.makes_frames):
        return _tiles(work, sequence)
    if options.close:
        require_straight(sequence, option("close"))
    parts = clip_parts(sequence)
    judged = [_judged(options, work, part.sequence) if part.clips or len(parts) == 1 else None for part in parts]
    found = judged[0] if len(parts) == 1 else None
    if found is None:
        found = LoopMade(
            name=sequence.stem, numbers=tuple(sequence.numbers), clips=sequence.clips, seam=None, windows=(), tiles=(),
            notes=(), parts=tuple(one for one in judged if one),
        )  # fmt: skip
    if not options.makes_frames:
        return found._replace(notes=tuple(work.notes), edits=tuple(work.edits))
    folder, seams = _written(options, work, sequence, parts, judged)
    return found._replace(
        notes=tuple(work.notes),
        edits=tuple(work.edits),
        files=folder.files,
        manifest=folder.manifest,
        closed=seams[0] if len(parts) == 1 else None,
        images=folder.images,
        parts=tuple(one._replace(closed=seam) for one, seam in zip(judged, seams, strict=True) if one and found.parts),
    )


def _judged(options: LoopOptions, work: Work, sequence: FrameSequence) -> LoopMade:
    """How the frames of one clip loop, and where they would best."""
    with work.progress("reading frames", len(sequence.frames)) as advance:
        # small pictures of all frames: a thousand frames as they are would not fit
        signatures = signatures_of(sequence, jobs=options.threads, advance=advance)
    windows = best_windows(signatures, *options.find, room=options.close or 0) if options.find else []
    return LoopMade(
        name=sequence.stem,
        numbers=tuple(sequence.numbers),
        clips=sequence.clips,
        seam=judge_seam(signatures),
        windows=tuple(windows),
        tiles=(),
        notes=(),
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
    options: LoopOptions,
    work: Work,
    sequence: FrameSequence,
    parts: Sequence[ClipPart],
    judged: Sequence[LoopMade | None],
) -> tuple[FrameFolder, list[Seam | None]]:
    """The frames of each clip's loop, those of none as they are; and for each part its seam if it was closed."""
    kind = faded_kind(options.content(sequence).kind, options.fade)
    frames: list[NewFrame] = []
    clips: list[tuple[int, ClipSet]] = []
    for part, one in zip(parts, judged, strict=True):
        own = part.sequence
        if one is None:
            made, found = unchanged(own), ClipSet(())
        else:
            work.note(*lost_clips(own))
            spans = _chosen(options, one.windows, len(own.frames))
            made = new_frames(own, spans, kind=kind, warps=not options.no_warp)
            holds = stated_holds(own)
            found = ClipSet((clip_over(own, [holds[int(span.position)] for span in spans]),))
        frames += made
        clips.append((len(made), found))
    watched, signatures = signed(frames)
    together = clips_together(sequence, clips) if len(parts) > 1 else clips[0][1]
    new = NewFrames.made_of(sequence, watched, together, kind=options.content(sequence).name)
    if options.close:
        new = new._replace(faded=all_fades([sequence], options.fade))
    folder = write_frames(options, work, new, command="loop")
    if not options.close:
        return folder, [None] * len(parts)
    ends = list(accumulate(count for count, _ in clips))
    pictures = signatures()
    seams = [judge_seam(pictures[end - count : end]) for end, (count, _) in zip(ends, clips, strict=True)]
    return folder, [seam if one else None for seam, one in zip(seams, judged, strict=True)]
