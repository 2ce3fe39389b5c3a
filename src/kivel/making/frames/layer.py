"""Sequences stacked into one."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from kivel.core.errors import located
from kivel.core.layers import LAYER, operator_of, stack_length
from kivel.core.named_tuples import NamedTuple
from kivel.core.prepare.matte import brightness_mask, matte_brightness
from kivel.core.prepare.written import parse_source
from kivel.making.frames.frame_files import NewFrames, write_frames
from kivel.making.frames.layered_frames import SequenceLayer, layered_clips, layered_frames, stacks_of_clips
from kivel.making.options.layer_options import LayerOptions
from kivel.sequences.clip_parts import clips_together
from kivel.sequences.clips import ClipSet
from kivel.sequences.matching import matched
from kivel.sequences.pairing import maps_left, open_with_maps
from kivel.sequences.sequence import require_straight, without_motion

if TYPE_CHECKING:
    from kivel.core.pixels.pixels import Pixels
    from kivel.files.manifest.model import Manifest
    from kivel.files.output_set import Written
    from kivel.making.frames.layered_frames import SequenceLayer
    from kivel.making.work import Work
    from kivel.sequences.pairing import MapRequest
    from kivel.sequences.reconciling.frame_edits import FrameEdit

__all__ = ["LayerMade", "StackedSequence", "make_layer"]


class StackedSequence(NamedTuple):
    """One sequence of a stack."""

    name: str
    frames: int


class LayerMade(NamedTuple):
    """Stacked frames: files with what became of each, the manifest, and the sequences from the bottom up.

    `images` are by name where nothing was written. `edits` are what was done to the frames since a manifest said
    something of them.
    """

    files: tuple[Written, ...]
    manifest: Manifest
    layers: tuple[StackedSequence, ...]
    notes: tuple[str, ...]
    images: dict[str, Pixels]
    edits: tuple[FrameEdit, ...] = ()


def make_layer(options: LayerOptions, work: Work) -> LayerMade:
    """Stack sequences.

    Raises
    ------
    KivelError
        What the options, the sources or the disk do not allow; nothing is written then.
    """
    texts = (options.base, *options.over)
    requests = options.map_requests()
    layers = [
        _layer(options, work, text, f"layer {number}", [] if number else requests) for number, text in enumerate(texts)
    ]
    sequences = [layer.frames for layer in layers]
    stacks = stacks_of_clips(layers)
    counts = [stack_length([len(layer.frames.frames) for layer in stack], options.until) for stack in stacks]
    found = [
        (count, layered_clips(stack, count) if stack[0].frames.clips or len(stacks) == 1 else ClipSet(()))
        for stack, count in zip(stacks, counts, strict=True)
    ]
    clips = clips_together(sequences[0], found) if len(stacks) > 1 else found[0][1]
    work.hear(*sequences)
    work.note(*maps_left(sequences[1:]), *clips.notes)
    new = NewFrames(
        stem=sequences[0].stem,
        frames=[
            frame
            for stack, count in zip(stacks, counts, strict=True)
            for frame in layered_frames(stack, count, opacity=options.opacity, linear=options.linear)
        ],
        clips=clips,
        sources={path for sequence in sequences for path in sequence.files()},
        extra=sequences[0].extra,
        has_clips=any(sequence.clips for sequence in sequences),
    )
    folder = write_frames(options, work, new, command="layer")
    stack = tuple(StackedSequence(sequence.stem, len(sequence.frames)) for sequence in sequences)
    return LayerMade(folder.files, folder.manifest, stack, tuple(work.notes), folder.images, tuple(work.edits))


def _layer(options: LayerOptions, work: Work, text: str, where: str, requests: Sequence[MapRequest]) -> SequenceLayer:
    """A sequence with what is written behind it."""
    with located(where):
        source, values = parse_source(text, LAYER)
    settings = options.source_settings(work, keep_float=True, several=True)
    sequence = open_with_maps([source], requests, settings, neutral=options.missing_map == "neutral")
    sequence = without_motion(sequence)
    require_straight(sequence, "stacking")
    sequence = matched(sequence, odd_size="pad", align="center")
    matte, mask, clip = (values.pop(name) for name in ("matte", "mask", "clip"))
    with located(where):
        values["operator"] = operator_of(values["operator"], clip=clip, mask=mask)
    changed = brightness_mask if mask == "brightness" else matte_brightness if matte else None
    return SequenceLayer(sequence, values, changed, is_mask=mask is not None)
