"""How frames lie: spacing, pages, and the companion maps that lie in step."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Literal

from kivel.core.errors import UsageError, option
from kivel.core.numbers import whole_number
from kivel.making.options.option import Option, Options
from kivel.making.options.value_kinds import FARTHEST, FLAG, SIZE, ValueKind, choice, named, whole

if TYPE_CHECKING:
    from kivel.core.layout.page import PageRule
    from kivel.core.layout.spacing import Spacing
    from kivel.core.pixels.pixels import Size
    from kivel.sequences.pairing import MapRequest

__all__ = [
    "CompanionOptions",
    "DividedOptions",
    "FitPageOptions",
    "MapOptions",
    "PageOptions",
    "SpacingOptions",
    "moved_value",
    "refuse_spacing",
]

_MOST_MIPS = 12


def moved_value(text: str, move: Callable[[str], str]) -> str:
    name, _, path = text.partition("=")
    return f"{name}={move(path)}"


class SpacingOptions(Options):
    """Holds what lies between and around things on a page."""

    title = "layout"
    gap: Option[int] = Option(whole(0, FARTHEST), "spacing (padding) between frames, in pixels", default=0, shown="0")
    margin: Option[int] = Option(whole(0, FARTHEST), "border around everything, in pixels", default=0, shown="0")
    skirt: Option[int] = Option(whole(0, FARTHEST), "extrude edge pixels N times outward, against bleeding", default=0)
    skirt_wrap: Option[bool] = Option(FLAG, "tiles: fill the skirt from the opposite edge", default=False)
    mip_safe: Option[int | None] = Option(
        whole(1, _MOST_MIPS), "align cells so that no texel of the first N mip levels mixes two frames", default=None
    )

    def check(self) -> None:
        super().check()
        if self.skirt_wrap and not self.skirt:
            raise UsageError(f"{option('skirt-wrap', True)} needs {option('skirt', 'N')}")

    def spacing(self, *, parts: int = 1) -> Spacing:
        """`parts` is what smaller maps need places to divide by."""
        from kivel.core.layout.spacing import Spacing

        if self.skirt % parts:
            raise UsageError(
                f"a skirt of {self.skirt} px is not a multiple of {parts}, which {option('map-scale')} needs"
            )
        block = (1 << (self.mip_safe or 0)) * parts
        return Spacing(gap=self.gap, margin=self.margin, skirt=self.skirt, block=block)


class PageOptions(Options):
    """Which pages are allowed."""

    title = "page"
    pow2: Option[bool] = Option(FLAG, "page width and height are powers of two", default=False)
    square: Option[bool] = Option(FLAG, "pages are square", default=False)
    multiple_of: Option[int] = Option(whole(1, FARTHEST), "page width and height are multiples of N", default=1)
    page_limit: Option[Size | None] = Option(
        SIZE, "largest page, maximum texture size; more frames go on more pages", default=None, shown="no limit"
    )

    def check(self) -> None:
        super().check()
        multiple = self.multiple_of
        if self.pow2 and multiple & (multiple - 1):
            either = f"{option('pow2', True)} or {option('multiple-of')}"
            raise UsageError(f"no power of two is a multiple of {multiple}; remove {either}")

    def page_rule(self) -> PageRule:
        from kivel.core.layout.page import PageRule

        return PageRule(pow2=self.pow2, square=self.square, multiple_of=self.multiple_of, limit=self.page_limit)


class FitPageOptions(Options):
    """A page that frames are scaled down for."""

    fit_page: Option[Size | None] = Option(
        SIZE, "exactly this page size; frames are scaled down until all fit", default=None
    )


class DividedOptions(Options):
    """Pages for engines that know only how many columns and rows there are, and divide by them."""

    divided: Option[bool] = Option(
        FLAG,
        "page is exactly columns x rows of cells, for engines that divide it; pads frames into larger cells",
        default=False,
    )


def refuse_spacing(options: SpacingOptions) -> None:
    """Require that nothing lies between and around cells of a page that is divided; raises `UsageError`."""
    given = [name for name in ("gap", "margin", "skirt") if getattr(options, name)]
    if given:
        raise UsageError(
            f"{option('divided', True)} leaves no space between and around cells; remove {option(given[0])}"
        )


def _map_kind(example: str, form: str) -> ValueKind[tuple[str, str]]:
    """`MAP=VALUE`; the colour map is what the sources give."""
    plain = named(example, form)

    def read(text: str) -> tuple[str, str]:
        name, value = plain.read(text)
        if not name.replace("-", "").replace("_", "").isalnum():
            raise UsageError(f"expected {form}, like {example}, found {text!r}")
        if name == "color":
            raise UsageError('"color" is the SRC itself; name another map')
        return name, value

    return plain._replace(read=read)


class CompanionOptions(Options):
    """Companion maps, in step with the colour."""

    title = "companion maps"
    map: Option[tuple[tuple[str, str], ...]] = Option(
        _map_kind("emission=glow/", "MAP=SRC"),
        "companion map, laid out alike: emission=glow/; one for each SRC, or one for all",
        default=(),
        many=True,
        from_folder=moved_value,
    )
    map_suffix: Option[tuple[tuple[str, str], ...]] = Option(
        _map_kind("normal=_n", "MAP=_x"),
        "companion map by file name: normal=_n for moth_1_n.png",
        default=(),
        many=True,
    )
    map_kind: Option[tuple[tuple[str, str], ...]] = Option(
        _map_kind("glow=mask", "MAP=KIND"),
        "kind of a map: color, mask, normal, normal-down or motion (default: by its name, else color)",
        default=(),
        many=True,
    )
    missing_map: Option[Literal["error", "neutral"]] = Option(
        choice("error", "neutral"),
        "if a map lacks a frame: error (default), or fill in its neutral value",
        default="error",
    )

    def map_parts(self) -> dict[str, int]:
        """One side of the colour map is this many of each smaller map's."""
        return {}

    def map_requests(self) -> list[MapRequest]:
        """The maps asked for, in the order of their names' first mention; those that sources bring along not."""
        from kivel.core.contents import CONTENTS
        from kivel.sequences.pairing import MapRequest

        scales = dict.fromkeys(self.map_parts())
        names = dict.fromkeys([*(name for name, _ in [*self.map, *self.map_suffix, *self.map_kind]), *scales])
        suffixes, kinds, parts = dict(self.map_suffix), dict(self.map_kind), self.map_parts()
        for name, kind in kinds.items():
            if kind not in CONTENTS:
                raise UsageError(f"{option('map-kind', f'{name}={kind}')}: expected {', '.join(CONTENTS)}")
        requests = []
        for name in names:
            sources = tuple(source for other, source in self.map if other == name)
            if sources and name in suffixes:
                raise UsageError(f"map {name}: use either {option('map')} or {option('map-suffix')}")
            content = CONTENTS[kinds[name]] if name in kinds else None
            requests.append(MapRequest(name, sources, suffixes.get(name), content, parts.get(name)))
        return requests


class MapOptions(CompanionOptions):
    """Companion maps of a layout, some of them smaller."""

    title = "companion maps"
    map_scale: Option[tuple[tuple[str, str], ...]] = Option(
        _map_kind("mask=1/2", "MAP=1/N"), "store a map smaller: mask=1/2", default=(), many=True
    )

    def map_parts(self) -> dict[str, int]:
        """One side of the colour map is this many of each smaller map's."""
        parts = {}
        for name, text in self.map_scale:
            one, _, count = text.partition("/")
            parts[name] = whole_number(count) or 0
            if one != "1" or not 1 <= parts[name] <= 16:
                raise UsageError(f"{option('map-scale', f'{name}={text}')}: expected 1/2, 1/3, ... to 1/16")
        return parts
