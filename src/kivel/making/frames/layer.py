"""Sequences stacked into one."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from kivel.core.errors import located
from kivel.core.layers import LAYER, operator_of, stack_length
from kivel.core.named_tuples import NamedTuple
from kivel.core.prepare.matte import brightness_mask, matte_brightness
from kivel.core.prepare.written import parse_source
from kivel.making.frames.frame_files import NewFrames, write_frames
from kivel.making.frames.layered_frames import (
    SequenceLayer,
    layered_clips,
    layered_frames,
    stacked_maps,
    stacks_of_clips,
)
from kivel.making.options.layer_options import LayerOptions
from kivel.sequences.clip_parts import clips_together
from kivel.sequences.clips import ClipSet
from kivel.sequences.matching import matched
from kivel.sequences.pairing import open_with_maps, with_companions
from kivel.sequences.sequence import all_fades, require_straight, without_motion

if TYPE_CHECKING:
    from kivel.core.pixels.pixels import Pixels
    from kivel.files.manifest.model import Manifest
    from kivel.files.output_set import Written
    from kivel.making.frames.layered_frames import SequenceLayer
    from kivel.making.work import Work
    from kivel.sequences.pairing import MapRequest
    from kivel.sequences.reconciling.frame_edits import FrameEdit
    from kivel.sequences.settings import SourceSettings

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
    neutral = options.missing_map == "neutral"
    stated = [_stated(options, work, text, number) for number, text in enumerate(texts)]
    layers = [
        _layer(options, one, requests) for one, requests in zip(stated, _map_requests(options, stated), strict=True)
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
    maps = [stacked_maps(stack, neutral=neutral) for stack in stacks]
    work.note(*maps[0].notes, *clips.notes)
    new = NewFrames(
        stem=sequences[0].stem,
        frames=[
            frame
            for stack, own, count in zip(stacks, maps, counts, strict=True)
            for frame in layered_frames(stack, own, count, opacity=options.opacity, linear=options.linear)
        ],
        clips=clips,
        sources={path for sequence in sequences for path in sequence.files()},
        extra=sequences[0].extra,
        has_clips=any(sequence.clips for sequence in sequences),
        faded=all_fades(sequences),
    )
    folder = write_frames(options, work, new, command="layer")
    stack = tuple(StackedSequence(sequence.stem, len(sequence.frames)) for sequence in sequences)
    return LayerMade(folder.files, folder.manifest, stack, tuple(work.notes), folder.images, tuple(work.edits))


class _Stated(NamedTuple):
    """A layer as written: its source, what is written behind it, and how it is read."""

    where: str
    source: str
    values: dict[str, Any]
    settings: SourceSettings


def _stated(options: LayerOptions, work: Work, text: str, number: int) -> _Stated:
    where = f"layer {number}"
    with located(where):
        source, values = parse_source(text, LAYER)
    return _Stated(where, source, values, options.source_settings(work, keep_float=True, several=True))


def _map_requests(options: LayerOptions, stated: Sequence[_Stated]) -> list[list[MapRequest]]:
    """The maps to look for of each layer: of the base all, of any layer those that lie beside its files.

    The base need not have what another layer has.
    """
    requests = options.map_requests()
    found = [with_companions(one.source, requests, one.settings) for one in stated]
    beside = {request.name for each in found for request in each}
    of_base = [one for one in requests if one in found[0] or one.name not in beside]
    return [of_base, *found[1:]]


def _layer(options: LayerOptions, stated: _Stated, requests: Sequence[MapRequest]) -> SequenceLayer:
    """A sequence with its maps, and how it is laid over others."""
    neutral = options.missing_map == "neutral"
    sequence = open_with_maps([stated.source], requests, stated.settings, neutral=neutral)
    sequence = without_motion(sequence)
    require_straight(sequence, "stacking")
    sequence = matched(sequence, odd_size="pad", align="center")
    values = dict(stated.values)
    matte, mask, clip = (values.pop(name) for name in ("matte", "mask", "clip"))
    with located(stated.where):
        values["operator"] = operator_of(values["operator"], clip=clip, mask=mask)
    changed = brightness_mask if mask == "brightness" else matte_brightness if matte else None
    return SequenceLayer(sequence, values, changed, is_mask=mask is not None)
