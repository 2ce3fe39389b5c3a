"""How a picture is divided into frames: by a grid that is stated, by one that is found, by islands."""

from __future__ import annotations

from collections import Counter
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, Any, ClassVar

from kivel.core.errors import UsageError, located, option
from kivel.core.numbers import whole_number
from kivel.core.option_words import Align, EmptyCells, Fill
from kivel.making.options.groups.clip_options import MadeClipOptions, RowClipOptions
from kivel.making.options.groups.layout_options import CompanionOptions
from kivel.making.options.groups.output_options import PivotOptions, RebuildOptions, WritingOptions
from kivel.making.options.option import Option, Options
from kivel.making.options.value_kinds import (
    A_PATH,
    FARTHEST,
    FILL,
    FLAG,
    PATH,
    PLACE,
    ValueKind,
    choice,
    moved_path,
    whole,
    written_path,
)

if TYPE_CHECKING:
    from kivel.core.pixels.pixels import Pair
    from kivel.core.slicing.background import KeyRequest
    from kivel.core.slicing.fitting import CellSize, GridRequest

__all__ = ["CutOptions", "SheetCutOptions"]

_GRID_FORM = "at=1,1 cell=96x48 gap=1 columns=5 rows=8"


def _pair(text: str) -> Pair:
    from kivel.core.pixels.pixels import Pair

    across, cross, down = text.lower().partition("x")
    x = whole_number(across)
    y = whole_number(down) if cross else x
    if x is None or y is None or max(x, y) > FARTHEST:
        raise UsageError(f"expected pixels, like 2, or 2x0 across and down, found {text!r}")
    return Pair(x, y)


def _point(text: str) -> Pair:
    from kivel.core.pixels.pixels import Pair

    across, comma, down = text.partition(",")
    x, y = whole_number(across.strip()), whole_number(down.strip())
    if not comma or x is None or y is None or max(x, y) > FARTHEST:
        raise UsageError(f"expected X,Y in pixels from the top left, like 4,10, found {text!r}")
    return Pair(x, y)


def _cell(text: str) -> CellSize:
    from kivel.core.slicing.fitting import CellSize

    across, by, down = text.lower().partition("x")
    w, h = _length(across), _length(down if by else across)  # 32 is 32x32
    if w is None or h is None:
        raise UsageError(f"expected WIDTHxHEIGHT in pixels, like 32x32 or 35/2x18, found {text!r}")
    return CellSize(w, h)


def _length(text: str) -> Fraction | None:
    """Pixels, or parts of them."""
    over, slash, under = text.partition("/")
    parts = whole_number(under) if slash else 1
    number = whole_number(over)
    if not number or not parts or not 1 <= Fraction(number, parts) <= FARTHEST:
        return None
    return Fraction(number, parts)


def _key(text: str) -> KeyRequest:
    if text in ("find", "corner", "none"):
        return text  # type: ignore[return-value]
    digits = text.removeprefix("#")
    if len(digits) != 6 or any(digit not in "0123456789abcdefABCDEF" for digit in digits):
        raise UsageError(f"expected corner, none, or a colour like #ff00ff, found {text!r}")
    value = int(digits, 16)
    return value >> 16, value >> 8 & 255, value & 255


def _written(value: Any) -> str:
    """A number, a pair, or a colour, as text."""
    if isinstance(value, tuple) and len(value) == 3:
        return "#" + "".join(f"{part:02x}" for part in value)
    return "x".join(map(str, value)) if isinstance(value, tuple) else str(value)


_PAIR: ValueKind[Pair] = ValueKind("N|XxY", _pair, _written, python="float | tuple[float, float] | str")
_POINT: ValueKind[Pair] = ValueKind(
    "X,Y", _point, lambda value: ",".join(map(str, value)), python="tuple[float, float] | str"
)
_CELL: ValueKind[CellSize] = ValueKind("WxH", _cell, _written, python="tuple[float, float] | str")
_KEY: ValueKind[KeyRequest] = ValueKind("#RRGGBB|corner|none", _key, _written)
_READERS: dict[str, ValueKind[Any]] = {
    "columns": whole(1, FARTHEST),
    "rows": whole(1, FARTHEST),
    "cell": _CELL,
    "gap": _PAIR,
    "margin": _PAIR,
    "at": _POINT,
    "fill": FILL,
}


def _grid(text: str) -> GridRequest:
    from kivel.core.slicing.fitting import GridRequest

    values: dict[str, Any] = {}
    for part in text.split():
        name, _, value = part.partition("=")
        if name not in _READERS or not value:
            raise UsageError(
                f"expected a grid, like {_GRID_FORM!r}, found {part!r}; for a single grid use {option('columns')} and "
                f"{option('rows')}"
            )
        with located(name):
            values[name] = _READERS[name].read(value)
    request = GridRequest(**values)
    if request.says_nothing:
        raise UsageError(f"expected a grid, like {_GRID_FORM!r}, found {text!r}, which needs columns, rows or a cell")
    return request


_GRID: ValueKind[GridRequest] = ValueKind("GRID", _grid)


class CutOptions(Options):
    """Holds what a plain image is divided by."""

    title = "grid of a plain image"
    command: ClassVar[str]
    """Which takes it apart."""
    columns: Option[int | None] = Option(
        whole(1, FARTHEST), "number of columns; without rows or a cell size, cells are square", default=None
    )
    rows: Option[int | None] = Option(
        whole(1, FARTHEST), "number of rows; without columns or a cell size, cells are square", default=None
    )
    cell: Option[CellSize | None] = Option(
        _CELL, "cell size in pixels: 64x64; may be fractional on a scaled sheet: 35/2x18", default=None
    )
    gap: Option[Pair | None] = Option(
        _PAIR, "spacing (padding) between frames, in pixels; 2x0 for across and down", default=None, shown="0"
    )
    margin: Option[Pair | None] = Option(
        _PAIR, "border around everything, in pixels; 1x0 for left and top", default=None, shown="0"
    )
    at: Option[Pair | None] = Option(
        _POINT,
        "top left corner of the first cell: 8,4; pixels left over at the other end are noted",
        default=None,
        shown="0,0",
    )
    fill: Option[Fill] = Option(
        FILL, "order of the frames: row by row (across) or column by column (down)", default="across", shown="across"
    )
    grid: Option[tuple[GridRequest, ...]] = Option(
        _GRID, f'one of several grids in the picture: "{_GRID_FORM}" (many)', default=(), many=True
    )
    like: Option[str | None] = Option(
        PATH,
        "cut it like another sheet; same places, names and clips",
        default=None,
        form="OTHER.kivel.json",
        from_folder=moved_path,
    )
    islands: Option[bool] = Option(FLAG, "no grid: each separate shape is a frame", default=False, group="islands")
    join: Option[int] = Option(
        whole(0, 1000), "merge parts with at most N empty pixels between them", default=0, group="islands"
    )
    least: Option[int] = Option(
        whole(1, FARTHEST), "skip islands of fewer pixels", default=1, form="AREA", group="islands"
    )
    visible_above: Option[int | None] = Option(
        whole(0, 254),
        "pixels are visible if their alpha is above N, of 255; fainter ones separate islands",
        default=None,
        form="ALPHA",
        shown="7",
        group="islands",
    )
    align: Option[Align | None] = Option(
        PLACE,
        "put frames of different sizes on one canvas, aligned: center, bottom, top-left, ...",
        default=None,
        shown="each keeps its own box",
        group="islands",
    )
    regions: Option[str | None] = Option(
        PATH,
        "cut the named rectangles of a regions file",
        default=None,
        form="NAME.regions.toml",
        from_folder=moved_path,
        group="regions",
    )
    find_again: Option[bool] = Option(
        FLAG,
        "find regions that moved or grew in a changed picture, and update the regions file",
        default=False,
        kept=False,
        group="regions",
    )
    find_new: Option[bool] = Option(
        FLAG,
        "with find-again, also take shapes that no region is for, and add them to the file",
        default=False,
        kept=False,
        group="regions",
    )
    as_written: Option[bool] = Option(
        FLAG,
        "cut regions at the places in the file, even if the picture has changed there",
        default=False,
        kept=False,
        group="regions",
    )
    save_regions: Option[str | None] = Option(
        PATH,
        "write the found regions to a file for editing; without -o, nothing else",
        default=None,
        form="NAME.regions.toml",
        from_folder=moved_path,
        kept=False,
        group="regions",
    )
    key: Option[KeyRequest] = Option(
        _KEY,
        "background colour to make transparent; corner: that of the top left pixel",
        default="find",
        shown="found",
    )
    empty: Option[EmptyCells] = Option(
        choice(EmptyCells),
        "which transparent cells to skip; drop-last: at the end; drop-row-ends: at the end of each row; drop: all; "
        "keep: none",
        default="drop-last",
        shown="drop-last; with row clips drop-row-ends",
    )
    pick: Option[int | None] = Option(
        whole(1), "which of the listed candidates to use; if it was not sure how to divide the picture", default=None
    )

    def check(self) -> None:
        super().check()
        ways = [name for name in ("grid", "like", "islands", "regions", "pick") if self.given(name)]
        ways += [name for name in ("columns", "rows", "cell") if self.given(name)][:1]
        if len(ways) > 1:
            raise UsageError(f"{option(ways[1])} cannot be combined with {option(ways[0])}; use one of them")
        of_islands = [name for name in ("join", "least", "visible-above", "align") if self.given(name)]
        if of_islands and not (self.islands or self.pick or self.regions):
            raise UsageError(f"{option(of_islands[0])} needs {option('islands', True)}")
        if self.find_again and not self.regions:
            raise UsageError(f"{option('find-again')} needs {option('regions', 'FILE')}")
        if self.find_new and not self.find_again:
            raise UsageError(f"{option('find-new', True)} needs {option('find-again', True)}")

    @property
    def empty_cells(self) -> EmptyCells:
        """Return what becomes of empty cells; of rows that are clips, those at their ends are no frames."""
        return "drop-row-ends" if self.given("row-clips") and not self.given("empty") else self.empty

    @property
    def states_cut(self) -> bool:
        """Whether anything says how the picture is divided."""
        names = (
            "columns",
            "rows",
            "cell",
            "gap",
            "margin",
            "at",
            "grid",
            "like",
            "islands",
            "regions",
            "empty",
            "pick",
            "key",
        )
        return any(self.given(name) for name in names)

    def grid_requests(self) -> tuple[GridRequest, ...]:
        """The grids that are stated; none where that is to be found out.

        Raises
        ------
        UsageError
            If margin or spacing is given without the cells.
        """
        from kivel.core.pixels.pixels import NO_PAIR
        from kivel.core.slicing.fitting import GridRequest

        if self.grid:
            return self.grid
        request = GridRequest(
            self.columns, self.rows, self.cell, self.gap or NO_PAIR, self.margin or NO_PAIR, self.at, self.fill
        )
        around = [name for name in ("gap", "margin", "at") if self.given(name)]
        if around and request.says_nothing:
            raise UsageError(
                f"{option(around[0])} is not enough; "
                f"add {option('columns')} and {option('rows')}, or {option('cell', 'WxH')}"
            )
        return () if request.says_nothing else (request,)


class SheetCutOptions(
    MadeClipOptions, RowClipOptions, CompanionOptions, CutOptions, PivotOptions, WritingOptions, RebuildOptions
):
    """Pictures that are taken apart, and what becomes of their frames."""

    title = "frames"
    sources: Option[tuple[str, ...]] = Option(
        ValueKind("IMAGE", str, written_path, python=A_PATH),
        "pictures",
        default=(),
        many=True,
        positional=True,
        needed=True,
        from_folder=moved_path,
    )
    look: Option[str | None] = Option(
        PATH,
        "draw the likeliest divisions over the picture",
        default=None,
        form="OUT.png",
        from_folder=moved_path,
        kept=False,
        group="output",
    )

    def check(self) -> None:
        super().check()
        stems = Counter(Path(source.removesuffix(".json")).stem for source in self.sources)
        twice = [stem for stem, count in stems.items() if count > 1]
        if twice:
            raise UsageError(f"{twice[0]} is given twice; give it once")
        for name in ("look", "save-regions"):
            if self.given(name) and len(self.sources) > 1:
                raise UsageError(f"{option(name)} works on one picture; give one image")
