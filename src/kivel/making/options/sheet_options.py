"""Put frames on sheets of equal cells: a flipbook, a grid or a strip. The manifest says where each frame is and how
it plays.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar, Literal

from kivel.core.errors import UsageError, option
from kivel.core.option_words import Fill, Layout
from kivel.making.options.groups.clip_options import FadeOptions, RowClipOptions
from kivel.making.options.groups.layout_options import DividedOptions, FitPageOptions, moved_value, refuse_spacing
from kivel.making.options.groups.motion_options import MotionOptions
from kivel.making.options.groups.paged_options import LayoutOptions
from kivel.making.options.groups.source_options import MatchingOptions
from kivel.making.options.option import Option
from kivel.making.options.value_kinds import (
    FARTHEST,
    FILL,
    FLAG,
    FRAME,
    PATH,
    SCALING,
    SIZE,
    choice,
    moved_path,
    named,
    whole,
)

if TYPE_CHECKING:
    from kivel.core.layout.sheet_plan import SheetRequest
    from kivel.core.pixels.pixels import Size

__all__ = ["SheetOptions"]

_OF_COLOURS = ("colors", "palette", "own-colors", "dither")
_OF_THE_SHEET = (
    "out", "columns", "rows", "cell", "layout", "fill", "sequences", "gap", "margin", "skirt", "mip-safe", "pow2",
    "square", "divided", "multiple-of", "page-limit", "row-clips", "fold", "inbetween", "make-group", "fit-page",
    *_OF_COLOURS, "motion", "motion-bits", "motion-size", "tile",
)  # fmt: skip
"""Options that a sheet settled when it was made."""
_LAID_OUT_ANEW = (
    *(name for name in _OF_THE_SHEET if name not in ("out", "row-clips", "make-group", *_OF_COLOURS)),
    "scale-to-cell", "align", "odd-size",
)  # fmt: skip
"""Options by which frames that were sliced from a sheet do not go back to where they were."""
_OF_A_PAGE = (
    "columns", "rows", "cell", "layout", "fill", "pow2", "square", "multiple-of", "page-limit", "scale-to-cell",
)  # fmt: skip
"""Options that a page to be fitted settles."""


class SheetOptions(LayoutOptions, MatchingOptions, MotionOptions, FadeOptions, RowClipOptions):
    """Frames on a grid, in a row or a column."""

    title = "layout"
    everyday: ClassVar = (
        "out", "columns", "cell", "gap", "pow2", "page-limit", "fit-page", "fps", "hold", "repeat", "order",
        "direction", "map", "pivot", "odd-size", "compress", "fresh-clips",
    )  # fmt: skip
    layout: Option[Layout] = Option(choice(Layout), "a grid, one row or one column", default="grid", shown="grid")
    columns: Option[int | None] = Option(
        whole(1, FARTHEST), "number of columns", default=None, shown="the most compact sheet"
    )
    rows: Option[int | None] = Option(whole(1, FARTHEST), "number of rows", default=None, shown="as many as needed")
    fill: Option[Fill] = Option(
        FILL, "order of the frames: row by row (across) or column by column (down)", default="across", shown="across"
    )
    sequences: Option[Literal["apart", "joined"]] = Option(
        choice("apart", "joined"),
        "several SRC: each begins a new row (apart, default), or all run on (joined)",
        default="apart",
    )
    cell: Option[Size | None] = Option(SIZE, "cell size in pixels: 64x64", default=None, shown="frame size")
    scale_to_cell: Option[Literal["nearest", "smooth"] | None] = Option(
        SCALING,
        "scale frames to the cell, keeping their aspect ratio; nearest for pixel art",
        default=None,
    )
    fit_page = FitPageOptions.fit_page.but(group="layout")
    divided = DividedOptions.divided.but(group="layout")
    fit_by: Option[Literal["scale", "thin"]] = Option(
        choice("scale", "thin"),
        "how to fit the page: scale frames down (default), or thin them: keep their size and skip frames evenly",
        default="scale",
    )
    into: Option[str | None] = Option(
        PATH,
        "add the frames to the free cells of this sheet; nothing else moves",
        default=None,
        form="OLD.kivel.json",
        from_folder=moved_path,
        kept=False,
    )
    fold: Option[Literal["alternate", "steps"] | None] = Option(
        choice("alternate", "steps"),
        "merge duplicate frames, proved to play the same; a mirrored half becomes ping-pong (alternate, default), "
        "or plain steps",
        default=None,
        bare="alternate",
        group="clips",
    )
    inbetween: Option[int | None] = Option(
        whole(1, 1000),
        "add N blended frames between neighbours, for targets that cannot interpolate",
        default=None,
        group="clips",
    )

    replace: Option[tuple[tuple[str, str], ...]] = Option(
        named("knight_0006=new.png", "FRAME=FILE"),
        "replace a frame of a sheet, by name or number, or one of its maps: 7=new.png, 7:normal=n.png (many)",
        default=(), many=True, from_folder=moved_value, kept=False, group="editing",
    )  # fmt: skip
    remove: Option[tuple[str, ...]] = Option(
        FRAME,
        "remove a frame from a sheet, by name or number (many)",
        default=(),
        many=True,
        kept=False,
        group="editing",
    )
    insert: Option[tuple[tuple[str, str], ...]] = Option(
        named("8=blink.png", "FRAME=FILE"),
        "insert a picture before a frame, with the hold of the frame before: 7=new.png (many)",
        default=(), many=True, from_folder=moved_value, kept=False, group="editing",
    )  # fmt: skip
    keep_holes: Option[bool] = Option(
        FLAG, "leave an empty cell, and its time, where a frame was removed", default=False, group="frames"
    )

    def check(self) -> None:
        super().check()
        if self.divided:
            refuse_spacing(self)
        if self.into:
            self._refuse_layout()
        if self.fit_page:
            counts = ("columns", "rows") if self.divided else ()
            given = [name for name in _OF_A_PAGE if self.given(name) and name not in counts]
            if given:
                raise UsageError(f"{option('fit-page')} decides {option(given[0])}; remove it")
        elif self.given("fit-by"):
            raise UsageError(f"{option('fit-by')} needs {option('fit-page', 'WxH')}")
        if self.given("fade") and not self.inbetween:
            raise UsageError(f"{option('fade')} needs {option('inbetween', 'N')}")
        if self.row_clips and (self.fold or self.inbetween):
            raise UsageError(
                f"{option('row-clips')} cannot be combined with {option('fold')} or {option('inbetween')}; "
                f"use {option('make-clip')}"
            )
        if self.row_clips and self.motion:
            raise UsageError(
                f"{option('motion', True)} leads from frame to frame as clips play, and {option('row-clips')} names "
                f"these when all is laid out; use {option('make-clip')}"
            )

    @property
    def states_layout(self) -> bool:
        """Whether anything says how frames are laid out, so that those of a sliced sheet do not go back."""
        return any(self.given(name) for name in _LAID_OUT_ANEW)

    @property
    def states_spacing_alone(self) -> bool:
        """Whether the text about the layout is how far apart cells are, and no more."""
        given = {name for name in _LAID_OUT_ANEW if self.given(name)}
        return bool(given) and given <= {"gap", "margin", "skirt"}

    @property
    def needs_out(self) -> bool:
        return super().needs_out and not self.into and not self.edits

    @property
    def edits(self) -> bool:
        """Whether the sheet of a manifest is edited."""
        return bool(self.replace or self.remove or self.insert)

    def _refuse_layout(self) -> None:
        given = [name for name in _OF_THE_SHEET if self.given(name)]
        if given:
            raise UsageError(
                f"{option(given[0])}: with {option('into')} the sheet keeps its place and layout; remove it"
            )

    def request(self, sequences: int, parts: int) -> SheetRequest:
        """Return what is asked of a sheet of this many sequences, its places divided by `parts`."""
        from kivel.core.layout.sheet_plan import SheetRequest

        return SheetRequest(
            layout=self.layout,
            columns=self.columns,
            rows=self.rows,
            spacing=self.spacing(parts=parts),
            fill=self.fill,
            rule=self.page_rule(),
            new_lines=self.sequences == "apart" and self.layout == "grid" and sequences > 1,
            divided=self.divided,
        )
