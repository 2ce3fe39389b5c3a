"""A sheet or an atlas that is exported: its frames and clips as they are meant, its pixels when they are asked for."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from fractions import Fraction
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING

from kivel.core.contents import CONTENTS, Content
from kivel.core.errors import KivelError, UsageError, option
from kivel.core.exporting.playback_table import PlaybackTable, ShownMap, TableFrame, TableMotion, TablePage
from kivel.core.exporting.step_tables import StepTable, step_table
from kivel.core.exporting.texture_places import texture_place
from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import TextureOrigin
from kivel.core.pixels.compose import to_8_bits
from kivel.core.pixels.pixels import Pair, Pixels, Size
from kivel.core.playback.clip import Clip
from kivel.core.playback.groups import chosen_clips, groups_of
from kivel.core.wording import counted, first_few
from kivel.files.images import open_image
from kivel.files.manifest.model import Manifest
from kivel.files.manifest.names import COLOR, SUFFIX
from kivel.files.manifest.parsing import read_manifest
from kivel.files.page_store import StoredPage, stored_page
from kivel.files.png.write import encode_png
from kivel.making.playback.manifests import relative_to
from kivel.sequences.placed import sequence_of_manifest, stated_motion
from kivel.sequences.sequence import FrameSequence
from kivel.sequences.settings import SourceSettings

if TYPE_CHECKING:
    from kivel.making.options.export_options import ExportOptions
    from kivel.making.work import Work

__all__ = ["ExportUnits", "ExportedSheet", "ToExport"]

_CRISP_PX = 128


class ExportUnits(NamedTuple):
    """How places and times are counted, without a clock by each clip's own; `clock_name` is what a person may raise."""

    origin: TextureOrigin = "top"
    half_texel: bool = False
    clock: Fraction | None = None
    clock_name: str = option("clock", "R")


class ExportedSheet:
    """A manifest, or of several pages one, and the clips that were chosen; `others` are all that it has.

    Raises
    ------
    KivelError
        If it cannot be read, or has no such page, map or clip.
    """

    def __init__(self, path: Path, options: ExportOptions, work: Work, units: ExportUnits | None = None) -> None:
        self.path = path
        self.units = units or ExportUnits(options.origin, options.half_texel, options.clock)
        self.name = path.name.removesuffix(SUFFIX)
        self.manifest = read_manifest(path)
        if options.page is not None:
            self.manifest = _page_of(self.manifest, path, options.page, work)
        self.others = self.manifest.clips
        self.clips = chosen_clips(self.others, options.clip)
        self.options = options
        self.work = work
        missing = next((page for page in self.manifest.pages if options.show not in page.maps), None)
        if missing:
            there = ", ".join(missing.maps)
            raise UsageError(f"{path}: there is no map {options.show!r}; there are {there}")
        self._sequence = cache(self._opened)
        self._stored = cache(self._stored_page)

    @property
    def content(self) -> Content:
        """Return what the values of the map that is shown mean."""
        return CONTENTS[self.manifest.pages[0].maps[self.options.show].kind]

    @property
    def is_crisp(self) -> bool:
        """Whether each pixel is to be seen as a square: small frames mostly are drawn that way."""
        if self.options.filter:
            return self.options.filter == "nearest"
        return all(side <= _CRISP_PX for frame in self.manifest.frames for side in frame.canvas)

    @property
    def is_premultiplied(self) -> bool:
        return self.options.show == COLOR and any(page.alpha == "premultiplied" for page in self.manifest.pages)

    def tables(self, clips: Sequence[Clip]) -> tuple[StepTable, ...]:
        """The steps of clips, on the clock that is asked for; the largest rounding error is noted."""
        tables = tuple(step_table(clip, self.units.clock) for clip in clips)
        for table in tables:
            self._note_rounding(table)
        return tables

    def table(self, clips: Sequence[Clip], folder: Path) -> PlaybackTable:
        """All of it, files as they are seen from a folder."""
        options, manifest = self.options, self.manifest
        moved = relative_to(folder)
        exact = cache(Fraction)  # most frames turn at the same place
        frames = tuple(
            TableFrame(
                frame.name,
                frame.page,
                frame.rect,
                frame.turn,
                frame.flip or "",
                Size(*frame.canvas),
                Pair(*frame.offset),
                (exact(frame.pivot[0]), exact(frame.pivot[1])),
                texture_place(
                    frame.rect,
                    Size(*manifest.pages[frame.page].size),
                    self.units.origin,
                    half_texel=self.units.half_texel,
                ),
            )
            for frame in manifest.frames
        )
        pages = tuple(
            TablePage(
                Size(*page.size), {name: moved(str(self.path.parent / one.file)) for name, one in page.maps.items()}
            )
            for page in manifest.pages
        )
        shown = manifest.pages[0].maps[options.show]
        alpha = manifest.pages[0].alpha if options.show == COLOR else "straight"
        if alpha == "straight" and shown.file.lower().endswith(".exr") and self.content.kind == "color":
            alpha = "premultiplied"  # so an engine that reads the file finds it
        grid = sheet_grid = manifest.grid.cells() if manifest.grid else None
        if sheet_grid:
            frames = tuple(frame.in_cell_of(sheet_grid) for frame in frames)
        if grid and not (len(pages) == 1 and len(frames) <= grid.capacity):
            grid = None
        if grid and any(frame.rect != grid.cell_rect(number) for number, frame in enumerate(frames)):
            grid = None
        return PlaybackTable(
            name=self.name,
            shown=ShownMap(options.show, CONTENTS[shown.kind].kind == "color", shown.parts, alpha),
            origin=self.units.origin,
            half_texel=self.units.half_texel,
            pages=pages,
            frames=frames,
            grid=grid,
            clips=self.tables(clips),
            motion=self._motion(),
            sheet_grid=sheet_grid,
            groups=groups_of(manifest.groups, clips),
        )

    def _motion(self) -> TableMotion | None:
        """The map of motion, if its vectors are known."""
        for name, file in self.manifest.pages[0].maps.items():
            motion = stated_motion(self.manifest, name)
            if motion:
                (page, *_) = open_image(self.path.parent / file.file, max_pixels=self.options.pixel_limit)
                return TableMotion(name, motion, file.parts, page.depth)
        return None

    @property
    def depth(self) -> int:
        """Bits a channel of the deepest page: 8, 16, or 32 for float."""
        return max(self._stored(number).info.depth for number in range(len(self.manifest.pages)))

    def require_bytes(self, target: str, *, or_by: str = "") -> None:
        """Refuse float pixels, for a target that takes 8 bits a channel; 16 bits are rounded, which is noted.

        `or_by` is an option by which it takes float pixels.
        """
        self.require_no_float(target, or_by=or_by)
        if self.depth == 16:
            self.work.note(f"{self.path}: 16 bits a channel are rounded to the 8 that {target} takes")

    def require_no_float(self, target: str, *, or_by: str = "") -> None:
        """Refuse float pixels; raises `KivelError` with what to do."""
        if self.depth == 32:
            also = f"{or_by} takes float pages; else " if or_by else ""
            raise KivelError(
                f"{self.path}: its pages are float (OpenEXR), and {target} does not take these; {also}make the "
                f"sheet again as NAME.png with {option('exposure', '0')}, and export that"
            )

    def frame(self, number: int) -> Pixels:
        """A frame on its full canvas, 8 bits."""
        return to_8_bits(self.map_frame(number, self.options.show))

    def map_frame(self, number: int, map: str) -> Pixels:
        """A frame of a map on its full canvas, as deep as it is stored."""
        return self._sequence(map).frames[number].load()

    def page(self, number: int) -> Pixels:
        """A page, 8 bits."""
        return to_8_bits(self._stored(number).pixels())

    def stored_page(self, number: int) -> Pixels:
        """A page as deep as it is stored."""
        return self._stored(number).pixels()

    def page_png(self, number: int) -> bytes:
        """A page as a PNG file."""
        return b"".join(encode_png(self.page(number), compress="small"))

    def _stored_page(self, number: int) -> StoredPage:
        limit, tell = self.options.pixel_limit, self.work.note
        return stored_page(self.manifest, self.path, number, self.options.show, max_pixels=limit, tell=tell)

    def _opened(self, map: str) -> FrameSequence:
        settings = SourceSettings(self.options.pixel_limit, show=map, tell=self.work.note)
        return sequence_of_manifest(self.manifest, self.path, settings)

    def _note_rounding(self, table: StepTable) -> None:
        """How far the times on another clock are from the exact ones."""
        clock = self.units.clock
        if clock is None:
            return
        name = table.clip.name
        if table.merged:
            steps = ", ".join(map(str, table.merged))
            raise KivelError(
                f'clip "{name}": at {clock} ticks a second steps {steps} would not show at all; '
                f"raise {self.units.clock_name}, or use longer holds"
            )
        if table.error or table.longer:
            longer = f", a cycle is {float(table.longer * 1000):+.3f} ms off" if table.longer else ""
            self.work.note(f'clip "{name}": steps end up to {float(table.error * 1000):.3f} ms off{longer}')


def _page_of(manifest: Manifest, path: Path, number: int, work: Work) -> Manifest:
    """One page, its frames numbered again, and the clips that play on it alone."""
    last = len(manifest.pages) - 1
    if number > last:
        raise UsageError(f"{path}: there is no page {number}; {counted(last + 1, 'page')}, 0-{last}")
    kept = [place for place, frame in enumerate(manifest.frames) if frame.page == number]
    new: Mapping[int, int] = {old: place for place, old in enumerate(kept)}
    clips = [clip for clip in manifest.clips if all(step.frame in new for step in clip.steps)]
    elsewhere = [clip.name for clip in manifest.clips if clip not in clips]
    if elsewhere:
        work.note(f"{path}: skipped, not only on page {number}: {first_few(elsewhere)}")
    names = {clip.name for clip in clips}
    clips = [clip if clip.then in names else replace(clip, then=None) for clip in clips]
    return replace(
        manifest,
        pages=(manifest.pages[number].renumbered(new),),
        frames=tuple(replace(manifest.frames[old], page=0) for old in kept),
        clips=tuple(clip.renumbered(new) for clip in clips),
    )


class ToExport(NamedTuple):
    """A sheet, its frames and the clips that are meant, one where a target takes one; the suffix says which form."""

    sheet: ExportedSheet
    table: PlaybackTable
    suffix: str

    @property
    def clips(self) -> list[Clip]:
        return [table.clip for table in self.table.clips]
