"""Stack sequences frame by frame, each with a blend, an opacity and an offset."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, ClassVar

from kivel.core.errors import located
from kivel.core.named_tuples import NamedTuple
from kivel.making.options.layout_options import CompanionOptions
from kivel.making.options.option import Option
from kivel.making.options.output_options import FrameOutputOptions
from kivel.making.options.source_options import ReadingOptions
from kivel.making.options.value_kinds import FLAG, ValueKind, choice, written_path

if TYPE_CHECKING:
    from kivel.core.layers import Length
    from kivel.core.pixels import Pixels
    from kivel.files.manifest.model import Manifest
    from kivel.files.output_set import Written
    from kivel.making.layered_frames import SequenceLayer
    from kivel.making.work import Work
    from kivel.sequences.pairing import MapRequest

__all__ = ["LayerMade", "LayerOptions", "StackedSequence", "make_layer"]


def _moved_layer(text: str, move: Callable[[str], str]) -> str:
    from kivel.core.layers import LAYER
    from kivel.core.prepare.written import moved_source

    return moved_source(text, LAYER, move)


def _share(text: str) -> float:
    from kivel.core.layers import LAYER

    opacity = next(parameter for parameter in LAYER if parameter.name == "opacity")
    share: float = opacity.read(text)
    return share


class LayerOptions(ReadingOptions, CompanionOptions, FrameOutputOptions):
    """Sequences over each other."""

    title = "stack"
    everyday: ClassVar = (
        "out", "until", "opacity", "linear", "map", "map-suffix", "range", "compress", "force",
    )  # fmt: skip
    base: Option[str] = Option(
        ValueKind("BASE", str, written_path),
        "the sequence at the bottom; the result has its size",
        default="",
        positional=True,
        needed=True,
        from_folder=_moved_layer,
    )
    over: Option[tuple[str, ...]] = Option(
        ValueKind("OVER", str, written_path),
        'what goes over it: "SRC blend=screen opacity=0.5"',
        default=(),
        many=True,
        positional=True,
        needed=True,
        from_folder=_moved_layer,
    )
    until: Option[Length] = Option(
        choice("longest", "base", "common"),
        "how many frames: until the longest ends (default), the base does, or all end together; shorter ones repeat",
        default="longest",
    )
    opacity: Option[float] = Option(ValueKind("N", _share), "of the result, 0 to 1", default=1.0, shown="1")
    linear: Option[bool] = Option(
        FLAG, "blend in linear light (default: on sRGB values, as browsers do)", default=False
    )


class StackedSequence(NamedTuple):
    """One sequence of a stack."""

    name: str
    frames: int


class LayerMade(NamedTuple):
    """Stacked frames: files with what became of each, the manifest, and the sequences from the bottom up.

    `images` are by name where nothing was written.
    """

    files: tuple[Written, ...]
    manifest: Manifest
    layers: tuple[StackedSequence, ...]
    notes: tuple[str, ...]
    images: dict[str, Pixels]


def make_layer(options: LayerOptions, work: Work) -> LayerMade:
    """Stack sequences.

    Raises
    ------
    KivelError
        What the options, the sources or the disk do not allow; nothing is written then.
    """
    from kivel.core.layers import stack_length
    from kivel.making.frame_files import write_frames
    from kivel.making.layered_frames import layered_clips, layered_frames
    from kivel.sequences.pairing import maps_left

    texts = (options.base, *options.over)
    requests = options.map_requests()
    layers = [
        _layer(options, work, text, f"layer {number}", [] if number else requests) for number, text in enumerate(texts)
    ]
    sequences = [layer.frames for layer in layers]
    count = stack_length([len(sequence.frames) for sequence in sequences], options.until)
    clips = layered_clips(layers, count)
    work.note(*(note for sequence in sequences for note in sequence.notes), *maps_left(sequences[1:]), *clips.notes)
    folder = write_frames(
        options,
        work,
        layered_frames(layers, count, opacity=options.opacity, linear=options.linear),
        command="layer",
        stem=sequences[0].stem,
        has_clips=any(sequence.clips for sequence in sequences),
        clips=clips,
        sources={path for sequence in sequences for path in sequence.files()},
        extra=sequences[0].extra,
    )
    stack = tuple(StackedSequence(sequence.stem, len(sequence.frames)) for sequence in sequences)
    return LayerMade(folder.files, folder.manifest, stack, tuple(work.notes), folder.images)


def _layer(options: LayerOptions, work: Work, text: str, where: str, requests: Sequence[MapRequest]) -> SequenceLayer:
    """A sequence with what is written behind it."""
    from kivel.core.layers import LAYER
    from kivel.core.prepare.written import parse_source
    from kivel.making.layered_frames import SequenceLayer
    from kivel.sequences.matching import matched
    from kivel.sequences.pairing import open_with_maps
    from kivel.sequences.sequence import require_straight, without_motion

    with located(where):
        source, values = parse_source(text, LAYER)
    settings = options.source_settings(work, keep_float=True)
    sequence = open_with_maps([source], requests, settings, neutral=options.missing_map == "neutral")
    sequence = without_motion(sequence)
    require_straight(sequence, "stacking")
    sequence = matched(sequence, odd_size="pad", align="center")
    return SequenceLayer(sequence, values, values.pop("matte"))
