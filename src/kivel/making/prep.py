"""Prepare frames: a chain of steps, done in the order given, from frames as rendered or drawn to frames fit to pack."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, ClassVar

from kivel.core.errors import UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.making.options.layout_options import CompanionOptions
from kivel.making.options.option import Option
from kivel.making.options.output_options import ColourOptions, FrameOutputOptions
from kivel.making.options.source_options import KindOptions, SourceOptions
from kivel.making.options.value_kinds import ValueKind

if TYPE_CHECKING:
    from kivel.core.pixels import Pixels
    from kivel.core.prepare.steps import WrittenStep
    from kivel.files.manifest.model import Manifest
    from kivel.files.output_set import Written
    from kivel.making.work import Work

__all__ = ["PrepMade", "PrepOptions", "make_prep"]


def _moved_step(text: str, move: Callable[[str], str]) -> str:
    """A step whose images are named from elsewhere."""
    from kivel.core.prepare.steps import moved_step

    return moved_step(text, move)


class PrepOptions(SourceOptions, KindOptions, CompanionOptions, ColourOptions, FrameOutputOptions):
    """Steps done to frames."""

    title = "steps"
    everyday: ClassVar = (
        "out", "step", "steps", "colors", "map", "map-suffix", "as", "series", "range", "layers-as", "exposure",
        "compress", "force",
    )  # fmt: skip
    step: Option[tuple[str, ...]] = Option(
        ValueKind('"NAME ..."', str),
        "what to do: a name, its arguments, key=value; give it several times for a chain",
        default=(),
        many=True,
        from_folder=_moved_step,
    )

    def check(self) -> None:
        super().check()
        if not (self.step or self.colors):
            raise UsageError(f"{option('step')} is needed: what to do; kivel prep --steps lists what there is")

    def steps(self) -> list[WrittenStep]:
        from kivel.core.prepare.steps import parse_step

        return [parse_step(text, where=f"{option('step')} {number}") for number, text in enumerate(self.step, 1)]


class PrepMade(NamedTuple):
    """Prepared frames: files with what became of each, the manifest, the steps and what those that measure found.

    `images` are by name where nothing was written.
    """

    files: tuple[Written, ...]
    manifest: Manifest
    steps: tuple[str, ...]
    measured: tuple[str, ...]
    notes: tuple[str, ...]
    images: dict[str, Pixels]


def make_prep(options: PrepOptions, work: Work) -> PrepMade:
    """Prepare frames.

    Raises
    ------
    KivelError
        What steps, sources or the disk do not allow; nothing is written then.
    """
    from kivel.files.scratch import Scratch
    from kivel.making.fewer_colours import in_few_colours, require_colour
    from kivel.making.frame_files import require_elsewhere, write_frames
    from kivel.making.prepared_frames import chain_of, file_loader, prepared_sequence
    from kivel.sequences.pairing import open_with_maps

    steps = options.steps()
    settings = options.source_settings(work, keep_float=True)
    neutral = options.missing_map == "neutral"
    sequence = open_with_maps(options.sources, options.map_requests(), settings, neutral=neutral)
    content = options.content(sequence)
    load_file = file_loader(settings.max_pixels)
    chain = chain_of(steps, kind=content.kind, load_file=load_file, premultiplied=sequence.premultiplied)
    if options.colors:
        require_colour(content.kind)
    require_elsewhere(options.out, sequence.files())
    work.note(*sequence.notes)
    with Scratch() as scratch:
        with work.progress("measuring frames", chain.passes * len(sequence.frames)) as advance:
            made = prepared_sequence(
                sequence, chain, kind=content.kind, shelf=scratch, jobs=options.threads, advance=advance
            )
        work.note(*made.clips.notes, *made.notes)
        frames, reduced = in_few_colours(
            options, work, made.frames, scratch, premultiplied=chain.premultiplied, jobs=options.threads
        )
        folder = write_frames(
            options,
            work,
            frames,
            command="prep",
            stem=sequence.stem,
            has_clips=bool(sequence.clips),
            clips=made.clips,
            sources=sequence.files(),
            premultiplied=chain.premultiplied,
            kind=content.name,
            extra=sequence.extra,
        )
    work.note(*(one.note() for one in reduced))
    effects = list(zip(steps, made.effects, strict=True))
    work.note(*(f'{step.where}: "{step.text}" changed no frame' for step, effect in effects if not effect.changed))
    said = tuple(f"{step.kind.name}: {effect.said}" for step, effect in effects if effect.said)
    texts = tuple(step.text for step in steps)
    return PrepMade(folder.files, folder.manifest, texts, said, tuple(work.notes), folder.images)
