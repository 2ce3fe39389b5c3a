"""Where to write, over what, and how hard to compress."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any, Protocol

from kivel.core.errors import UsageError, option
from kivel.core.option_words import Compress, Dither, Indexed
from kivel.making.options.groups.clip_options import ClipNameOptions
from kivel.making.options.groups.common_options import CommonOptions
from kivel.making.options.option import Option, Options
from kivel.making.options.value_kinds import FLAG, PATH, PIVOT, choice, moved_path, whole

if TYPE_CHECKING:
    from collections.abc import Callable

    from kivel.core.pivots import PivotRequest
    from kivel.files.output_set import OutputSet
    from kivel.making.work import Work

__all__ = [
    "ColourOptions", "CompressOptions", "FrameOutputOptions", "OutputOptions", "PivotOptions", "RebuildOptions",
    "StatedChanges", "WritingOptions",
]  # fmt: skip


class WritingOptions(CommonOptions):
    """Holds what becomes of files that are there."""

    title = "output"
    force: Option[bool] = Option(FLAG, "overwrite files that Kivel did not write", default=False, kept=False)
    dry_run: Option[bool] = Option(FLAG, "print what would be written, and write nothing", default=False, kept=False)

    def output_set(
        self, work: Work, *, with_manifest: bool = True, is_ours: Callable[[Path], bool] | None = None
    ) -> OutputSet:
        """Where a command gathers its files.

        One that writes no manifest beside them replaces what `is_ours` by other signs, and else nothing of its own
        accord: a page that a manifest knows is part of a sheet.
        """
        from kivel.files.output_set import OutputSet
        from kivel.files.ownership import page_of, written_by_kivel

        def known(path: Path) -> bool:
            if path in work.ours:
                return True
            return is_ours(path) if is_ours else with_manifest and written_by_kivel(path, max_pixels=self.pixel_limit)

        return OutputSet(
            force=self.force,
            is_ours=known,
            dry_run=self.dry_run,
            page_of=(lambda _path: None) if with_manifest else page_of,
            tell=work.note,
            placed=work.placed,
        )


class OutputOptions(WritingOptions):
    """Where to write. In Python it is optional: results are then returned in memory."""

    title = "output"
    out: Option[str | None] = Option(PATH, "where to write", default=None, form="OUT", from_folder=moved_path)

    def check(self) -> None:
        super().check()
        if self.needs_out and not self.out:
            form = type(self).declared()["out"].form
            raise UsageError(f"{option('out', form)} is needed: where to write")
        if self.out == "-":
            raise UsageError(f"{option('out', '-')}: results are files, and nothing is written to stdout; give a name")

    @property
    def needs_out(self) -> bool:
        return self.door != "python"


class StatedChanges(Protocol):
    """Options of `retime`, which build on the groups here."""

    def request(self) -> Any:
        """The `RetimeRequest` that they state."""


class RebuildOptions(CommonOptions):
    """Holds what becomes of what was set on clips since they were made.

    `retimes` are changes to the clips that are made, of the options of `retime`, where a recipe states some: these win
    over what was set.
    """

    title = "output"
    retimes: tuple[StatedChanges, ...] = ()
    fresh_clips: Option[bool] = Option(
        FLAG,
        "discard timing, clips and pivots set since the first run",
        default=False,
        kept=False,
    )


class PivotOptions(Options):
    """Where frames turn."""

    title = "frames"
    pivot: Option[tuple[PivotRequest, ...]] = Option(
        PIVOT,
        'pivot (anchor): bottom, mass, or 16,30 from the top left; "walk*=bottom" for one series (many)',
        default=(),
        many=True,
    )


class CompressOptions(Options):
    """How PNG is stored."""

    title = "output"
    compress: Option[Compress] = Option(
        choice(Compress),
        "PNG: fast (default), small (10% less) or least (20% less); slower; the pixels never change",
        default="fast",
    )
    indexed: Option[Indexed] = Option(
        choice(Indexed),
        "palette PNG: keep the palette that all frames have, with its order (default); never; or smallest, where that "
        "makes the file smaller",
        default="keep",
    )


class ColourOptions(CommonOptions):
    """How many colours frames may have."""

    title = "colours"
    colors: Option[int | None] = Option(
        whole(2, 256), "at most N colours, alpha included, the same for all frames and pages of a map", default=None,
        form="N",
    )  # fmt: skip
    palette: Option[str | None] = Option(
        PATH, "use the colours of this file: an image, or lines of #RRGGBB or #RRGGBBAA", default=None, form="FILE",
        from_folder=moved_path,
    )  # fmt: skip
    own_colors: Option[bool] = Option(
        FLAG, "choose the colours among those that the frames have; none is mixed", default=False
    )
    dither: Option[Dither] = Option(
        choice(Dither),
        "dithering of few colours: none (default), or ordered, a pattern that stays fixed in the cell",
        default="none",
    )

    def check(self) -> None:
        super().check()
        if self.given("dither") and not (self.reduces_colours or self.values.get("depth") == "8"):
            raise UsageError(f"{option('dither')} needs {option('colors', 'N')}")
        if self.palette and self.palette.isdigit():
            raise UsageError(f"{option('palette')} takes a file; did you mean {option('colors', self.palette)}?")
        if self.palette and (self.colors or self.own_colors):
            other = option("colors") if self.colors else option("own-colors", True)
            raise UsageError(f"{option('palette')} cannot be combined with {other}; remove one of them")
        if self.own_colors and not self.colors:
            raise UsageError(f"{option('own-colors', True)} needs {option('colors', 'N')}")

    @property
    def reduces_colours(self) -> bool:
        """Whether frames get fewer colours than they have."""
        return bool(self.colors or self.palette)


class FrameOutputOptions(OutputOptions, CompressOptions, RebuildOptions, ClipNameOptions):
    """Frames are written into a folder."""

    title = "output"
    out = OutputOptions.out.but(form="DIR")
