"""Describes what sheets and atlases have in common: the frames and maps that they lay out, and their pages."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from math import lcm
from pathlib import Path
from typing import TYPE_CHECKING

from kivel.core.errors import UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.groups import listed_clips, with_groups
from kivel.core.wording import first_few, unique_names
from kivel.files.manifest.names import manifest_beside
from kivel.files.manifest.text import manifest_text
from kivel.files.page_store import PageArrays, PageFiles, page_files
from kivel.making.options.groups.clip_options import ClipNameOptions, ClipOptions, MadeClipOptions
from kivel.making.options.groups.paged_options import LayoutOptions
from kivel.making.options.groups.source_options import MatchingOptions
from kivel.sequences.clips import with_clip_called
from kivel.sequences.map_frames import base_map
from kivel.sequences.matching import matched, registered
from kivel.sequences.opening import open_sequences
from kivel.sequences.pairing import companion_maps
from kivel.sequences.sequence import common_content, shared_out
from kivel.sequences.stored_depth import with_depth

if TYPE_CHECKING:
    from kivel.core.option_words import Align
    from kivel.core.pixels.pixels import Pixels
    from kivel.core.playback.groups import Group
    from kivel.files.images import FrameSource
    from kivel.files.manifest.model import Manifest
    from kivel.files.output_set import OutputSet
    from kivel.files.page_store import PageArrays, PageFiles
    from kivel.making.sheets.fewer_colours import Reduced
    from kivel.making.work import Work
    from kivel.sequences.clips import ClipSet
    from kivel.sequences.map_frames import MapFrames
    from kivel.sequences.sequence import FrameSequence

__all__ = [
    "Gathered",
    "add_manifest",
    "all_frames",
    "all_groups",
    "gathered",
    "images_of",
    "maps_reduced",
    "page_store",
    "regathered",
    "stated_clips",
    "step_of",
    "with_clips_called",
]


class Gathered(NamedTuple):
    """The sequences to lay out, and their maps over all frames, the colour first."""

    sequences: list[FrameSequence]
    maps: list[MapFrames]

    def files(self) -> set[Path]:
        """Every file that they are read from."""
        return set().union(*(each.files() for each in self.sequences), *(one.files() for one in self.maps))


def gathered(
    options: LayoutOptions,
    work: Work,
    *,
    keep_float: bool,
    series: bool = False,
    align: Align | None = None,
    stated: bool = True,
) -> Gathered:
    """The sequences as they are, each of one size where the options match sizes, and their maps.

    Under `series` a folder may hold several. Frames of several sizes are put on one canvas where they are to `align`.
    `stated` says whether anything does, of how they are laid out.
    """
    settings = options.source_settings(
        work,
        keep_float=keep_float,
        with_maps=True,
        companions=tuple(suffix for _, suffix in options.map_suffix),
        series=series,
        several=True,
        keep_holes=bool(options.values.get("keep-holes")),
        developed_bits=16 if options.depth == "16" or (options.depth and options.dither != "none") else 8,
    )
    sequences = open_sequences(options.sources, settings)
    requests = options.map_requests()
    if requests or any(sequence.maps for sequence in sequences):
        companions, notes = companion_maps(sequences, requests, settings, neutral=options.missing_map == "neutral")
        work.note(*notes)
        sequences = shared_out(sequences, companions)
    if isinstance(options, MatchingOptions):
        # islands of a sheet go back to where they were, whatever their sizes
        sequences = [
            each if each.sheet and not stated else matched(each, odd_size=options.odd_size, align=options.align)
            for each in sequences
        ]
    else:
        sequences = [registered(each, align) for each in sequences]
    work.hear(*sequences)
    if options.depth:
        deep = max(sequence.depth for sequence in sequences)
        sequences = [with_depth(each, options.depth, dither=options.dither) for each in sequences]
        work.note(*_depth_notes(options, deep))
    sequences = with_clips_called(options, sequences, after=options.target.stem if options.out else "")
    depths = {sequence.depth for sequence in sequences}
    if len(depths) > 1 and max(depths) == 16:
        shallow = first_few([sequence.stem for sequence in sequences if sequence.depth == 8])
        work.note(f"frames of 8 bits a channel become 16 bits, like the others: {shallow}")
    return regathered(sequences)


def _depth_notes(options: LayoutOptions, before: int) -> list[str]:
    if before == 16 and options.depth == "8":
        how = "dithered in a pattern" if options.dither == "ordered" else "rounded to the nearest"
        return [f"16 bits a channel become 8, {how}"]
    return ["values are rounded to half floats"] if options.depth == "half" else []


def with_clips_called(
    options: ClipNameOptions, sequences: list[FrameSequence], *, after: str = ""
) -> list[FrameSequence]:
    """The sequences; the clip of one that comes alone is called as stated, or `after` what is made.

    Raises
    ------
    UsageError
        If a name is stated, and it is not for one clip.
    """
    if len(sequences) == 1:
        return [with_clip_called(sequences[0], options.name, otherwise=after)]
    if options.name is not None:
        names = first_few([sequence.stem for sequence in sequences])
        raise UsageError(
            f"{option('name', options.name)} is for one sequence, found {len(sequences)}: {names}; "
            f"use {option('make-clip', f'{options.name}={sequences[0].stem}')}"
        )
    return sequences


def regathered(sequences: list[FrameSequence]) -> Gathered:
    """Sequences with the same maps each, and these maps over all frames."""
    maps = [base_map(all_frames(sequences), common_content(sequences))]
    in_step = zip(*(sequence.maps for sequence in sequences), strict=True)
    maps += [first.followed_by(others) for first, *others in in_step]
    return Gathered(sequences, maps)


def all_frames(sequences: Sequence[FrameSequence]) -> tuple[FrameSource, ...]:
    """The frames of all sequences, no two of one name: where they are the same, the sequence's own is put before."""
    times = Counter(frame.name for sequence in sequences for frame in sequence.frames)
    frames = [
        frame._replace(name=f"{sequence.stem}/{frame.name}") if times[frame.name] > 1 and len(sequences) > 1 else frame
        for sequence in sequences
        for frame in sequence.frames
    ]
    names = unique_names([frame.name for frame in frames])
    return tuple(frame._replace(name=name) for frame, name in zip(frames, names, strict=True))


def step_of(maps: Sequence[MapFrames]) -> int:
    """Return what places must divide by for all maps."""
    return lcm(*(one.parts for one in maps))


def all_groups(found: ClipSet, options: ClipOptions) -> tuple[Group, ...]:
    """The groups that came with the frames, and those asked for."""
    return with_groups(found.groups, found.clips, options.group_requests())


def stated_clips(options: MadeClipOptions, work: Work, found: ClipSet) -> ClipSet:
    """The clips as the options say that they play.

    Raises
    ------
    UsageError
        If an option names a clip, a frame or a step that is not there.
    """
    if isinstance(options, ClipNameOptions):
        options.require_named(found.clips)
    if options.says_nothing:
        return found
    from kivel.core.playback.changes import changed  # and all that comes with it

    changes = options.changes()
    changes.require(found.clips)
    results = [changed(clip, changes.of(clip.name), others=found.clips) for clip in found.clips]
    clips = tuple(result.clip for result in results)
    for clip in clips:
        if clip.then is not None and clip.then not in {other.name for other in clips}:
            raise UsageError(f'clip "{clip.name}": there is no clip {clip.then!r} to follow it; {listed_clips(clips)}')
    work.note(*(note for result in results for note in result.notes))
    return found._replace(clips=clips)


def maps_reduced(
    options: LayoutOptions, work: Work, maps: Sequence[MapFrames], *, premultiplied: bool
) -> tuple[list[MapFrames], list[Reduced]]:
    """The maps in few colours where that is asked for, and how far each is from what it was."""
    if not options.reduces_colours:
        return list(maps), []
    from kivel.making.sheets.fewer_colours import maps_in_few_colours  # with SciPy, for the nearest colour

    return maps_in_few_colours(options, work, maps, premultiplied=premultiplied, jobs=options.threads)


def pivoted(
    options: LayoutOptions, sequences: Sequence[FrameSequence], frames: Sequence[FrameSource]
) -> list[FrameSource]:
    """The frames of all sequences with the pivots that are asked for.

    Raises
    ------
    UsageError
        If a name matches nothing.
    """
    if not options.pivot:
        return list(frames)
    from kivel.making.playback.set_pivots import pivots_for, series_of  # few sheets have pivots of their own

    of_source = [frame for sequence in sequences for frame in sequence.frames]
    sizes = [frame.size for frame in frames]
    pivots = pivots_for(of_source, options.pivot, series_of(sequences), sizes=sizes, jobs=options.threads)
    return [frame._replace(pivot=pivots.get(number, frame.pivot)) for number, frame in enumerate(frames)]


def page_store(options: LayoutOptions, out: OutputSet, count: int, work: Work, what: str) -> PageFiles | PageArrays:
    """Where `count` pages are put: into files, or in memory where no name is given."""
    if not options.out:
        return PageArrays(options.target.stem, count)
    return PageFiles(
        out,
        options.target,
        count,
        compress=options.compress,
        jobs=options.threads,
        watched=work.watching(f"writing the {what}"),
        indexed=options.indexed,
    )


def add_manifest(
    options: LayoutOptions, out: OutputSet, manifest: Manifest, store: PageFiles | PageArrays
) -> list[str]:
    """Finish the pages, and write the manifest beside them where there are files; notes on older pages."""
    notes = store.finish([file.file for file in page_files(manifest)])
    if options.out:
        out.add(manifest_beside(options.target), [manifest_text(manifest).encode()])
    return notes


def images_of(store: PageFiles | PageArrays) -> dict[str, Pixels]:
    """The pages that stayed in memory."""
    return store.images if isinstance(store, PageArrays) else {}
