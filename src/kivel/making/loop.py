"""Say how well a sequence loops; find where a long one loops best; close one by a cross-fade. Say how a tile meets."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, ClassVar

from kivel.core.errors import UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.making.options.layout_options import CompanionOptions
from kivel.making.options.option import Option
from kivel.making.options.output_options import FrameOutputOptions
from kivel.making.options.source_options import KindOptions, MatchingOptions
from kivel.making.options.value_kinds import FLAG, LENGTH_RANGE, whole

if TYPE_CHECKING:
    from kivel.core.looping.seam import Seam, TileSeam
    from kivel.core.looping.search import Window
    from kivel.core.pixels import Pixels
    from kivel.core.playback.clip import Clip
    from kivel.core.resampling import Span
    from kivel.files.manifest.model import Manifest
    from kivel.files.output_set import Written
    from kivel.making.frame_files import FrameFolder
    from kivel.making.work import Work
    from kivel.sequences.sequence import FrameSequence

__all__ = ["JudgedTile", "LoopMade", "LoopOptions", "make_loop"]


class LoopOptions(MatchingOptions, KindOptions, CompanionOptions, FrameOutputOptions):
    """Loops judged, found and closed."""

    title = "looping"
    everyday: ClassVar = (
        "out", "find", "pick", "close", "sides", "map", "map-suffix", "as", "series", "range", "odd-size", "force",
    )  # fmt: skip
    find: Option[tuple[int, int] | None] = Option(
        LENGTH_RANGE, "rank the windows of so many frames that loop best", default=None
    )
    pick: Option[int | None] = Option(
        whole(1), "which of the windows found is written", default=None, form="RANK", shown="1"
    )
    close: Option[int | None] = Option(
        whole(1),
        "turn the K frames after the loop into its first ones, and write it; if none is to be found, the last K frames",
        default=None,
        form="K",
    )
    fade: Option[bool] = Option(
        FLAG, "close by fading alone (default: frames are warped into each other where that is better)", default=False
    )
    sides: Option[bool] = Option(
        FLAG, "judge each frame as a tile: how left meets right and top meets bottom", default=False
    )

    def check(self) -> None:
        super().check()
        writes = self.out or self.door == "python"
        if self.out and not (self.find or self.close):
            ways = f"{option('close', 'K')}, {option('find', 'MIN-MAX')}, or both"
            raise UsageError(f"{option('out')} needs {ways}: what to write?")
        if self.fade and not self.close:
            raise UsageError(f"{option('fade', True)} says how, {option('close', 'K')} that it is closed; give both")
        if self.close and not writes:
            raise UsageError(f"{option('close')} makes frames: say where with {option('out', 'DIR')}")
        if self.pick and not (self.find and writes):
            raise UsageError(
                f"{option('pick')} chooses among what {option('find')} found, to be written with {option('out', 'DIR')}"
            )

    @property
    def needs_out(self) -> bool:
        return False

    @property
    def makes_frames(self) -> bool:
        """Whether frames come of it; in Python they may stay in memory."""
        return bool(self.out or self.close or self.pick)


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
    from kivel.core.looping.seam import judge_seam
    from kivel.core.looping.search import best_windows
    from kivel.sequences.matching import matched
    from kivel.sequences.opening import open_sources
    from kivel.sequences.pairing import open_with_maps
    from kivel.sequences.sequence import require_straight
    from kivel.sequences.signatures import signatures_of

    settings = options.source_settings(work, keep_float=True)
    if options.makes_frames:
        neutral = options.missing_map == "neutral"
        sequence = open_with_maps(options.sources, options.map_requests(), settings, neutral=neutral)
    else:
        sequence = open_sources(options.sources, settings)
    sequence = matched(sequence, odd_size=options.odd_size, align=options.align)
    work.note(*sequence.notes)
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
    from kivel.core.looping.seam import tile_seam
    from kivel.core.looping.signature import planes_of
    from kivel.sequences.sequence import straightened

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
    from kivel.core.looping.closing import closed
    from kivel.core.resampling import Span

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
    from kivel.core.looping.seam import judge_seam
    from kivel.making.frame_files import signed, write_frames
    from kivel.making.resampled_frames import new_frames
    from kivel.sequences.clips import ClipSet, clip_over, lost_clips, stated_holds

    work.note(*lost_clips(sequence))
    holds = stated_holds(sequence)
    kind = options.content(sequence).kind
    made, signatures = signed(new_frames(sequence, spans, kind=kind, warps=not options.fade))
    clip = clip_over(sequence, [holds[int(span.position)] for span in spans])
    folder = write_frames(
        options,
        work,
        made,
        command="loop",
        stem=sequence.stem,
        has_clips=bool(sequence.clips),
        clips=ClipSet((clip,)),
        sources=sequence.files(),
        premultiplied=sequence.premultiplied,
        kind=options.content(sequence).name,
        extra=sequence.extra,
    )
    return folder, judge_seam(signatures()) if options.close else None
