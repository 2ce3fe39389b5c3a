"""Boxes of any size packed on pages: on one, or on as few as it takes."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from kivel.core.layout.packing import packed, packed_into, packed_partly
from kivel.core.layout.packing_search import PackedPiece
from kivel.core.layout.page import LayoutError, PageRule
from kivel.core.layout.spacing import Spacing, up_to_multiple
from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import Effort, Paging
from kivel.core.pixels.pixels import Rect, Size

__all__ = ["AtlasRequest", "BoxPlace", "PackedPage", "misfits", "pack_pages"]


_HALVINGS, _TRIALS = 8, 40
"""Parts of the effort for one of many pages that are tried."""
_MORE_PAGES = 3
"""This many more than are needed are tried before balance is given up."""


class AtlasRequest(NamedTuple):
    """Holds what was asked of an atlas."""

    spacing: Spacing = Spacing()
    rule: PageRule = PageRule()
    turn: bool = False
    effort: Effort = "normal"
    paging: Paging = "fill"

    @property
    def page_rule(self) -> PageRule:
        return self.rule._replace(multiple_of=up_to_multiple(self.rule.multiple_of, self.spacing.block))


class BoxPlace(NamedTuple):
    """Where the pixels of box number `box` lie; turned ones are as wide as high before."""

    box: int
    rect: Rect
    turned: bool


class PackedPage(NamedTuple):
    """A page, and what lies on it, by number."""

    size: Size
    places: tuple[BoxPlace, ...]

    @property
    def used(self) -> float:
        """The share of the page that boxes cover."""
        return sum(place.rect.w * place.rect.h for place in self.places) / (self.size.w * self.size.h)


def misfits(boxes: Sequence[Size], request: AtlasRequest) -> list[int]:
    """The numbers of the boxes that are too large for any page."""
    largest = request.page_rule.largest()
    if largest is None:
        return []
    room = request.spacing.room(largest)
    feet = [request.spacing.footprint(box) for box in boxes]
    return [number for number, foot in enumerate(feet) if not _fits(foot, room, request.turn)]


def _fits(foot: Size, room: Size, turn: bool) -> bool:
    upright = foot.w <= room.w and foot.h <= room.h
    return upright or (turn and foot.h <= room.w and foot.w <= room.h)


def pack_pages(
    boxes: Sequence[Size],
    groups: Sequence[int],
    request: AtlasRequest,
    *,
    advance: Callable[[], None] = lambda: None,
) -> list[PackedPage]:
    """All boxes on pages.

    Parameters
    ----------
    boxes : sequence of Size
        In pixels, without what the spacing adds; at least 1x1.
    groups : sequence of int
        Of each box: what `together` keeps on one page, where that can be.
    advance : callable
        Called after each page.

    Raises
    ------
    LayoutError
        If a box is too large for any page, or no page is allowed; whoever knows their names asks `misfits` first.
    """
    for number in misfits(boxes, request)[:1]:
        raise LayoutError(f"box {number} of {boxes[number]} px does not fit a page limit of {request.rule.limit} px")
    packer = _Packer([request.spacing.footprint(box) for box in boxes], request)
    everything = list(range(len(boxes)))
    single = packer.one_page(everything)
    if single:
        pages = [single]
    elif request.paging == "together":
        pages = packer.kept_together(groups)
    elif request.paging == "balance":
        pages = packer.balanced(everything)
    else:
        pages = packer.filled(everything)
    result = []
    for page in pages:
        result.append(_in_pixels(boxes, page, request))
        advance()
    return result


class _Packed(NamedTuple):
    """A page in pixels, which boxes lie on it, and where, in blocks."""

    page: Size
    members: tuple[int, ...]
    places: tuple[PackedPiece, ...]


class _Packer:
    """Footprints, in blocks, and what is asked of their pages."""

    def __init__(self, feet: Sequence[Size], request: AtlasRequest) -> None:
        self._feet = feet
        self._request = request
        self._rule = request.page_rule
        self._largest = self._rule.largest()

    def one_page(self, members: Sequence[int], *, parts: int = 1) -> _Packed | None:
        """These boxes on the smallest page found for them, with a part of the effort; None if no page holds them."""
        feet = [self._feet[member] for member in members]
        room = self._room(self._largest)
        if room is not None and _area(feet) > room.w * room.h:
            return None
        if self._rule.pow2:
            return self._on_power_of_two(members, feet, parts)
        if self._rule.square:
            return self._on_square(members, feet, parts)
        packing = packed(feet, turn=self._request.turn, effort=self._request.effort, limit=room, parts=parts)
        if packing is None and self._largest is not None:
            # the search for a small page did not get them in; now all work goes into this one page
            return self._into(members, feet, self._largest, parts)
        if packing is None:
            raise AssertionError(f"{len(feet)} boxes were not packed although there is no limit")
        page = self._rule.smallest(self._request.spacing.page(packing.size))
        return _Packed(page, tuple(members), packing.places)

    def _on_power_of_two(self, members: Sequence[int], feet: Sequence[Size], parts: int) -> _Packed | None:
        least = self._request.spacing.page(_least(feet, self._request.turn))
        area = _area(feet) * self._request.spacing.block**2
        for page in self._rule.pages_by_area(area, least):
            found = self._into(members, feet, page, parts)
            if found:
                return found
        return None

    def _on_square(self, members: Sequence[int], feet: Sequence[Size], parts: int) -> _Packed | None:
        """The least side is searched for by halving, as if what fits a page fitted all larger ones."""
        step = self._rule.multiple_of
        first = self._rule.smallest(self._request.spacing.page(_least(feet, self._request.turn))).w // step
        best: _Packed | None = None
        last = self._largest.w // step if self._largest else None
        if last is None:
            packing = packed(feet, turn=self._request.turn, effort="quick")
            assert packing is not None, "no limit"
            last = self._rule.smallest(self._request.spacing.page(packing.size)).w // step
        side = last
        while first <= last:
            found = self._into(members, feet, Size(side * step, side * step), parts * _HALVINGS)
            if found:
                best, last = found, side - 1
            else:
                first = side + 1
            side = (first + last) // 2
        return best

    def _into(self, members: Sequence[int], feet: Sequence[Size], page: Size, parts: int) -> _Packed | None:
        room = self._room(page)
        # margins alone can fill a small page
        if room is None or min(room) < 1 or not all(_fits(foot, room, self._request.turn) for foot in feet):
            return None
        packing = packed_into(feet, room, turn=self._request.turn, effort=self._request.effort, parts=parts)
        return _Packed(page, tuple(members), packing.places) if packing else None

    def _room(self, page: Size | None) -> Size | None:
        return None if page is None else self._request.spacing.room(page)

    def filled(self, members: Sequence[int]) -> list[_Packed]:
        """Pages as full as can be, one after the other; the last as small as can be."""
        largest, room = self._largest, self._room(self._largest)
        if largest is None or room is None:
            raise AssertionError("several pages need a page limit")
        pages: list[_Packed] = []
        rest = list(members)
        while rest:
            # all boxes on one page: that was tried already
            last = self.one_page(rest, parts=2) if pages else None
            if last:
                return [*pages, last]
            feet = [self._feet[member] for member in rest]
            chosen, packing = packed_partly(feet, room, turn=self._request.turn)
            pages.append(_Packed(largest, tuple(rest[index] for index in chosen), packing.places))
            taken = set(chosen)
            rest = [member for index, member in enumerate(rest) if index not in taken]
        return pages

    def balanced(self, members: Sequence[int]) -> list[_Packed]:
        """As many pages as filling takes, of about the same area each; as filled, where that cannot be."""
        pages = self.filled(members)
        for count in range(len(pages), len(pages) + _MORE_PAGES):
            found = [self.one_page(part, parts=count) for part in self._even_parts(members, count)]
            if None not in found:
                return [page for page in found if page]
        return pages

    def _even_parts(self, members: Sequence[int], count: int) -> list[list[int]]:
        """The largest first, always to the part of least area (Graham 1969, longest processing time first)."""
        parts: list[list[int]] = [[] for _ in range(count)]
        areas = [0] * count
        for member in sorted(members, key=lambda m: (-self._area_of(m), m)):
            least = areas.index(min(areas))
            parts[least].append(member)
            areas[least] += self._area_of(member)
        return [sorted(part) for part in parts if part]

    def kept_together(self, groups: Sequence[int]) -> list[_Packed]:
        """Each group on one page, if a page can hold it; large groups first, on the first page that has room."""
        by_group: dict[int, list[int]] = {}
        for member, group in enumerate(groups):
            by_group.setdefault(group, []).append(member)
        ordered = sorted(by_group.values(), key=lambda part: (-sum(map(self._area_of, part)), part))
        pages: list[list[int]] = []
        packings: list[_Packed] = []
        split: list[_Packed] = []
        for part in ordered:
            for number, page in enumerate(pages):
                packing = self._quick([*page, *part])
                if packing:
                    pages[number], packings[number] = sorted([*page, *part]), packing
                    break
            else:
                packing = self._quick(part)
                if packing:
                    pages.append(part)
                    packings.append(packing)
                else:
                    split += self.filled(part)
        count = len(pages)
        final = [self.one_page(page, parts=count) or packing for page, packing in zip(pages, packings, strict=True)]
        return final + split

    def _quick(self, members: Sequence[int]) -> _Packed | None:
        if self._largest is None:
            raise AssertionError("several pages need a page limit")
        ordered = sorted(members)
        return self._into(ordered, [self._feet[member] for member in ordered], self._largest, _TRIALS)

    def _area_of(self, member: int) -> int:
        return self._feet[member].w * self._feet[member].h


def _area(feet: Sequence[Size]) -> int:
    return sum(foot.w * foot.h for foot in feet)


def _least(feet: Sequence[Size], turn: bool) -> Size:
    """Return what a page holds at least."""
    if turn:
        return Size(max(map(min, feet)), max(map(min, feet)))
    return Size(max(foot.w for foot in feet), max(foot.h for foot in feet))


def _in_pixels(boxes: Sequence[Size], page: _Packed, request: AtlasRequest) -> PackedPage:
    places = []
    for member, place in zip(page.members, page.places, strict=True):
        w, h = boxes[member]
        size = Size(h, w) if place.turned else Size(w, h)
        x, y = request.spacing.pixel(place.x), request.spacing.pixel(place.y)
        places.append(BoxPlace(member, Rect(x, y, *size), place.turned))
    return PackedPage(page.page, tuple(sorted(places)))
