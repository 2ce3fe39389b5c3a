"""Prepared frames, from sources to files."""

from __future__ import annotations

from typing import TYPE_CHECKING

from kivel.core.named_tuples import NamedTuple
from kivel.files.scratch import Scratch
from kivel.making.frames.frame_files import NewFrames, require_elsewhere, write_frames
from kivel.making.frames.prepared_frames import chain_of, file_loader, prepared_sequence
from kivel.making.options.prep_options import PrepOptions
from kivel.making.sheets.fewer_colours import in_few_colours, require_colour
from kivel.sequences.pairing import open_with_maps

if TYPE_CHECKING:
    from kivel.core.pixels.pixels import Pixels
    from kivel.files.manifest.model import Manifest
    from kivel.files.output_set import Written
    from kivel.making.work import Work
    from kivel.sequences.reconciling.frame_edits import FrameEdit

__all__ = ["PrepMade", "make_prep"]


class PrepMade(NamedTuple):
    """Prepared frames: files with what became of each, the manifest, the steps and what those that measure found.

    `images` are by name where nothing was written. `edits` are what was done to the frames since a manifest said
    something of them.
    """

    files: tuple[Written, ...]
    manifest: Manifest
    steps: tuple[str, ...]
    measured: tuple[str, ...]
    notes: tuple[str, ...]
    images: dict[str, Pixels]
    edits: tuple[FrameEdit, ...] = ()


def make_prep(options: PrepOptions, work: Work) -> PrepMade:
    """Prepare frames.

    Raises
    ------
    KivelError
        What steps, sources or the disk do not allow; nothing is written then.
    """
    steps = options.steps()
    settings = options.source_settings(work, keep_float=True, several=True)
    neutral = options.missing_map == "neutral"
    sequence = open_with_maps(options.sources, options.map_requests(), settings, neutral=neutral)
    content = options.content(sequence)
    load_file = file_loader(settings.max_pixels)
    chain = chain_of(steps, kind=content.kind, load_file=load_file, premultiplied=sequence.premultiplied)
    if options.reduces_colours:
        require_colour(content.kind)
    require_elsewhere(options.out, sequence.files())
    work.hear(sequence)
    with Scratch() as scratch:
        with work.progress("measuring frames", chain.passes * len(sequence.frames)) as advance:
            made = prepared_sequence(
                sequence, chain, kind=content.kind, shelf=scratch, jobs=options.threads, advance=advance
            )
        work.note(*made.clips.notes, *made.notes)
        frames, reduced = in_few_colours(
            options, work, made.frames, scratch, premultiplied=chain.premultiplied, jobs=options.threads
        )
        new = NewFrames.made_of(sequence, frames, made.clips, kind=content.name)
        folder = write_frames(options, work, new._replace(premultiplied=chain.premultiplied), command="prep")
    work.note(*(one.note() for one in reduced))
    effects = list(zip(steps, made.effects, strict=True))
    work.note(*(f'{step.where}: "{step.text}" changed no frame' for step, effect in effects if not effect.changed))
    said = tuple(f"{step.kind.name}: {effect.said}" for step, effect in effects if effect.said)
    texts = tuple(step.text for step in steps)
    return PrepMade(folder.files, folder.manifest, texts, said, tuple(work.notes), folder.images, tuple(work.edits))
