"""Describes what frames are, and which of them: sources, how they are read, how they are made to agree."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal

from kivel.core.errors import UsageError, option
from kivel.core.option_words import Align, ContentName, LayerFrames
from kivel.making.options.groups.common_options import CommonOptions
from kivel.making.options.option import Option, Options
from kivel.making.options.value_kinds import (
    A_PATH,
    ANY_TEXT,
    PLACE,
    RANGE,
    RATE,
    ValueKind,
    choice,
    moved_path,
    number,
    written_path,
)

if TYPE_CHECKING:
    from fractions import Fraction

    from kivel.core.contents import Content
    from kivel.core.numbering import NumberRange
    from kivel.core.pixels.pixels import Pixels
    from kivel.core.playback.notation import TimeRange
    from kivel.making.work import Work
    from kivel.sequences.sequence import FrameSequence
    from kivel.sequences.settings import SourceSettings

__all__ = [
    "ChoosingOptions",
    "KindOptions",
    "MatchingOptions",
    "ReadingOptions",
    "ShowOptions",
    "SourceOptions",
    "SourceRateOptions",
]


class ReadingOptions(CommonOptions):
    """How files become frames."""

    title = "frames"
    range: Option[NumberRange | TimeRange | None] = Option(
        RANGE, "only these frames: 20-83 by their numbers, or 1.5s-3s by the time at which they begin", default=None
    )
    series: Option[str | None] = Option(
        ANY_TEXT,
        "which sequence of several in a folder, by name or pattern; of a manifest, which clip",
        default=None,
        form="NAME",
    )
    layers_as: Option[Literal["layers", "groups"] | None] = Option(
        choice(LayerFrames),
        "OpenRaster: each layer is a frame, or each group",
        default=None,
        shown="groups if there are any",
    )
    exposure: Option[float | None] = Option(
        number(-32, 32, "STOPS"), "convert OpenEXR to 8-bit sRGB, brightened by this many stops", default=None
    )

    def source_settings(self, work: Work, *, keep_float: bool = False, **more: Any) -> SourceSettings:
        out = self.values.get("out")
        return super().source_settings(
            work,
            keep_float=keep_float,
            within=self.range,
            pick=self.series,
            layers=self.layers_as,
            exposure=self.exposure,
            target=Path(out) if out else None,
            arrays=self.values.get("frames", ()),
            **more,
        )


class SourceRateOptions(ReadingOptions):
    """How fast the source plays."""

    title = "frames"
    fps: Option[Fraction | None] = Option(
        RATE,
        "frame rate: 12, 24000/1001; of the source; it goes along, thinned frames hold longer",
        default=None,
        shown="the source's, else not stated",
    )

    def source_settings(self, work: Work, *, keep_float: bool = False, **more: Any) -> SourceSettings:
        return super().source_settings(work, keep_float=keep_float, rate=self.fps, **more)


class SourceOptions(ReadingOptions):
    """SRC, or in Python the frames themselves."""

    title = "frames"
    sources: Option[tuple[str, ...]] = Option(
        ValueKind("SRC", str, written_path, python=A_PATH),
        'folder, files, "pattern_#.png", animated image or manifest; # is the number, * is anything; quote patterns',
        default=(),
        many=True,
        positional=True,
        from_folder=moved_path,
    )
    frames: Option[tuple[Pixels, ...]] = Option(
        ANY_TEXT, "arrays of images, (height, width, 4), in place of sources", default=(), direct=True, kept=False
    )

    def check(self) -> None:
        super().check()
        if self.given("sources") == self.given("frames"):
            other = f" or {option('frames')}" if self.door == "python" else ""
            what = "not both" if self.given("frames") else "a folder, files, a pattern in quotes or a manifest"
            raise UsageError(f"give SRC{other}: {what}")


class MatchingOptions(SourceOptions):
    """Frames made to agree in size."""

    title = "frames"
    odd_size: Option[Literal["error", "skip", "pad", "scale"]] = Option(
        choice("error", "skip", "pad", "scale"),
        "frames of another size: error (default), skip, pad, scale; pad: all to the largest; scale: to the usual size",
        default="error",
    )
    align: Option[Align] = Option(
        PLACE,
        "put frames of different sizes on one canvas, aligned: center, bottom, top-left, ...",
        default="center",
        shown="center",
    )


class KindOptions(Options):
    """Holds what the values of frames mean."""

    title = "frames"
    as_: Option[ContentName | None] = Option(
        choice(ContentName),
        "what the values mean: color, mask, normal, motion; mask: no gamma, separate alpha; normal: green up; "
        "normal-down: green down",
        default=None,
        shown="the source's, else color",
    )

    def content(self, sequence: FrameSequence) -> Content:
        """Return what the values of these frames mean."""
        from kivel.core.contents import CONTENTS

        return CONTENTS[self.as_ or sequence.content]


class ShowOptions(CommonOptions):
    """Which map is seen."""

    title = "look"
    show: Option[str] = Option(
        ANY_TEXT,
        "which map to use: color, emission, ...; of a manifest, or alpha",
        default="color",
        form="MAP",
        shown="color",
    )

    def shown_settings(self, work: Work) -> SourceSettings:
        """How to read sources of which that map is seen."""
        from kivel.sequences.sequence import ALPHA

        # a map that is called so comes before the colour's own alpha
        settings = self.source_settings(work, show=self.show, or_color=self.show == ALPHA)
        return settings._replace(with_motion=True)


class ChoosingOptions(Options):
    """Which clips are meant."""

    title = "which clips"
    clip: Option[tuple[str, ...]] = Option(
        ANY_TEXT, "choose clips by name or pattern (many)", default=(), many=True, form="NAME", shown="all clips"
    )
