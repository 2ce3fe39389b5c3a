"""The search behind packing: widths, preferences and beams, within so much work."""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Sequence

from kivel.core.errors import KivelError
from kivel.core.layout.beam import beamed
from kivel.core.layout.best_fit import Filling, Laid, filled, shelved
from kivel.core.layout.pieces import PREFERENCES, Kinds
from kivel.core.layout.skyline import BORDER
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Size

__all__ = ["PackedPiece", "Packing", "PackingError", "Search"]

_SWEEP_PERCENT = 300
"""As a share of the work, where no beam follows: a try without one costs less."""
_SWEEP_PERCENT_OF_MANY = 150
"""More pieces come close to their area sooner."""
_AUDITIONS, _AUDITION_PERCENT = 3, 120
"""At this many widths every preference is tried, wasting up to a fifth, before the better half of them goes on."""
_MANY_PIECES = 1500
_SHELF_WIDTHS, _SHELF_WORK = 24, 20_000
_BEAM_PIECES, _TAIL = 700, 250
"""Up to this many pieces a beam search pays off; it puts the last ones, those before are put by best-fit."""
_BEAM_PERCENT = 92
"""As a share of the work; the rest is the sweep's."""
_BEAM_STRIDE = 7
_LONGEST_PERCENT = 145
"""Sheets are tried up to so much wider, or narrower, than a square of the pieces' area."""


class PackingError(KivelError):
    """The pieces cannot be packed as asked."""


class PackedPiece(NamedTuple):
    """Where a piece lies; turned by 90 degrees or not."""

    x: int
    y: int
    turned: bool


class Packing(NamedTuple):
    """A sheet, and where each piece lies on it, in the pieces' order."""

    size: Size
    places: tuple[PackedPiece, ...]


class Search:
    """The best packing so far, and the work that is left.

    Pieces are packed as they are and, where they may not turn, also lying on their side: the sheet is then turned back.
    """

    def __init__(self, pieces: Sequence[Size], turn: bool, work: int, limit: Size | None, *, beam: int = 1) -> None:
        self._pieces = [Size(*piece) for piece in pieces]
        self._turn = turn
        self._work = work
        self._limit = limit
        self._beam = beam
        self._area = sum(w * h for w, h in self._pieces)
        self._best_area: int | None = None
        self._best: tuple[list[Laid], int, int, bool] | None = None
        self._suits = "height"
        self._kinds: dict[tuple[str, bool], Kinds] = {}

    def result(self) -> Packing | None:
        if self._best is None:
            return None
        found, width, height, lying = self._best
        if lying:
            # it was packed lying on its side, as if the page were turned; this turns it back
            found = [(y, x, h, w) for x, y, w, h in found]
            width, height = height, width
        return Packing(Size(width, height), _assigned(self._pieces, found))

    def _of(self, preference: str, lying: bool) -> Kinds:
        key = preference, lying
        if key not in self._kinds:
            sizes = [Size(h, w) for w, h in self._pieces] if lying else self._pieces
            self._kinds[key] = Kinds(sizes, turn=self._turn, preference=PREFERENCES[preference])
        return self._kinds[key]

    def _highest(self, width: int, lying: bool) -> int:
        """Up to which height a sheet of this width would be better than the best, and allowed; 0 if none would."""
        limit = self._limit
        if limit is not None and width > (limit.h if lying else limit.w):
            return 0
        # strictly less than the best: of equal sheets the first that was found stays
        highest = BORDER if self._best_area is None else (self._best_area - 1) // width
        if limit is not None:
            highest = min(highest, limit.w if lying else limit.h)
        return highest if highest * width >= self._area else 0

    def _take(self, found: list[Laid], lying: bool) -> None:
        height = max(y + h for _, y, _, h in found)
        # narrower than it was allowed to be, where the last column stayed empty
        used = max(x + w for x, _, w, _ in found)
        self._best_area = used * height
        self._best = found, used, height, lying

    def _widths(self, lying: bool) -> list[int]:
        """Every width worth trying, spread so that any few of them cover the range; the limit's own first."""
        kinds = self._of("height", lying)
        narrowest = max(min(group) if self._turn else group[0] for group in kinds.groups)
        root = math.isqrt(self._area)
        first = max(narrowest, root * 100 // _LONGEST_PERCENT)
        last = max(root * _LONGEST_PERCENT // 100, first + first // 8)
        count = last - first + 1
        # a stride near the golden section, coprime to the count: the first few already lie all over the range
        step = max(1, count * 618 // 1000)
        while math.gcd(step, count) > 1:
            step += 1
        own = [] if self._limit is None else [self._limit.h if lying else self._limit.w]
        return own + [first + index * step % count for index in range(count)]

    def shelves(self) -> None:
        """Rows of falling height, the simplest way: what everything else has to beat."""
        for lying in (False, True):
            sizes = [Size(h, w) for w, h in self._pieces] if lying else self._pieces
            tall = [Size(min(s), max(s)) for s in sizes] if self._turn else sizes
            ordered = sorted(tall, key=lambda size: (-size.h, -size.w))
            for width in self._shelf_widths(lying):
                found = shelved(ordered, width, self._highest(width, lying))
                if found:
                    self._take(found, lying)

    def _shelf_widths(self, lying: bool) -> list[int]:
        """A few from the range, and those of whole rows of equal pieces."""
        widths = self._widths(lying)
        kinds = self._of("height", lying)
        if len(kinds.groups) == 1:
            piece = kinds.groups[0][0]
            return [width for width in widths if width % piece == 0] or widths[:1]
        return widths[: max(2, min(_SHELF_WIDTHS, _SHELF_WORK // len(self._pieces)))]

    def sweep(self) -> None:
        """Best-fit at one width after the other, standing and lying, by the preferences that suit these pieces."""
        lyings = (False,) if self._turn else (False, True)
        many = len(self._pieces) > _MANY_PIECES
        alone = _SWEEP_PERCENT_OF_MANY if many else _SWEEP_PERCENT
        left = self._work * (100 - _BEAM_PERCENT if len(self._pieces) <= _BEAM_PIECES else alone) // 100
        widths = {lying: self._widths(lying) for lying in lyings}
        auditions = 1 if many else _AUDITIONS
        reached: dict[tuple[str, bool], int] = {}
        for name in PREFERENCES:
            for lying in lyings:
                if left <= 0 and reached:
                    continue  # of very many pieces even a few tries are all the work there is
                reached[name, lying] = BORDER
                for width in widths[lying][:auditions]:
                    area, work = self._audition(self._of(name, lying), width, lying)
                    reached[name, lying] = min(reached[name, lying], area)
                    left -= work
        tries = sorted(reached, key=lambda key: (reached[key], key))[: -(-len(reached) // 2)]
        self._suits = tries[0][0]
        for turn in range(max(map(len, widths.values())) * len(tries)):
            if left <= 0:
                return
            name, lying = tries[turn % len(tries)]
            width = widths[lying][(auditions + turn // len(tries)) % len(widths[lying])]
            left -= self._best_fit(self._of(name, lying), width, lying)

    def _audition(self, kinds: Kinds, width: int, lying: bool) -> tuple[int, int]:
        """How small a sheet of this width becomes, whether or not that is the best so far; and the work."""
        limit = self._highest(width, lying) if self._limit is not None else 0
        highest = max(limit, -(-self._area * _AUDITION_PERCENT // (100 * width)))
        filling = filled(kinds, width, highest)
        if filling.laid is None:
            return BORDER, filling.work
        height = max(filling.ys)
        if height <= self._highest(width, lying):
            self._take(filling.laid, lying)
        return width * height, filling.work

    def _best_fit(self, kinds: Kinds, width: int, lying: bool) -> int:
        """Fill a sheet of this width, and again for as long as it becomes lower; how many pieces were placed."""
        work = 0
        while highest := self._highest(width, lying):
            filling = filled(kinds, width, highest)
            work += filling.work + 4
            if filling.laid is None:
                break
            self._take(filling.laid, lying)
        return work + 1

    def beam(self) -> None:
        """Beam searches at the best width and around it."""
        if len(self._pieces) > _BEAM_PIECES or self._best is None:
            return
        left = self._work * _BEAM_PERCENT // 100
        _, best_width, best_height, best_lying = self._best
        lyings = (best_lying,) if self._turn else (best_lying, not best_lying)
        ranges = {lying: set(self._widths(lying)) for lying in lyings}
        for step in range(2 * max(best_width, best_height)):
            lying = lyings[step % len(lyings)]
            centre = best_width if lying == best_lying else best_height
            width = centre + _outward(step // len(lyings)) * _BEAM_STRIDE
            while width in ranges[lying] and (highest := self._highest(width, lying)):
                begun = self._begun(width, highest, lying)
                found, work = beamed(self._orders(lying), width, highest, beam=self._beam, begun=begun)
                left -= work
                if found is None:
                    break
                self._take(found, lying)
                if left <= 0:
                    break
            if left <= 0:
                return

    def _begun(self, width: int, highest: int, lying: bool) -> Filling:
        """Pack all but the last pieces by best-fit; the end of a packing decides how good it is."""
        count = max(0, len(self._pieces) - _TAIL)
        return filled(self._of(self._suits, lying), width, highest, count=count)

    def _orders(self, lying: bool) -> list[Kinds]:
        """The preferences that a beam takes its choices by."""
        names = ("height", "area", "wide area") if self._turn else ("height", "area")
        return [self._of(name, lying) for name in names]

    def fill_page(self, page: Size) -> None:
        """Any way into one page: by every preference, standing and lying, then by ever wider beams."""
        if self._area > page.w * page.h:
            return
        left = self._work
        for lying in (False, True):
            width = page.h if lying else page.w
            for name in PREFERENCES:
                left -= self._best_fit_once(self._of(name, lying), width, lying)
                if self._best:
                    return
        beam = 2
        while left > 0:
            for lying in (False, True):
                width, height = (page.h, page.w) if lying else page
                found, work = beamed(self._orders(lying), width, height, beam=beam)
                left -= work + 1
                if found:
                    self._take(found, lying)
                    return
            beam *= 2

    def part_of_page(self, page: Size) -> tuple[tuple[int, ...], Packing]:
        """The fullest page by any preference, upright or rotated."""
        fullest: tuple[int, list[Laid], bool] | None = None
        for lying in (False, True):
            width, height = (page.h, page.w) if lying else page
            for name in PREFERENCES:
                laid = filled(self._of(name, lying), width, height, until_full=True).laid or []
                area = sum(w * h for _, _, w, h in laid)
                if laid and (fullest is None or area > fullest[0]):
                    fullest = area, laid, lying
        if fullest is None:
            raise PackingError(f"no piece fits a page of {page}")
        _, laid, lying = fullest
        laid = [(y, x, h, w) for x, y, w, h in laid] if lying else laid
        chosen = self._chosen(laid)
        places = _assigned([self._pieces[number] for number in chosen], laid)
        return chosen, Packing(page, places)

    def _chosen(self, laid: list[Laid]) -> tuple[int, ...]:
        """Which pieces these are: of equal ones the first."""
        counts = Counter((min(w, h), max(w, h)) if self._turn else (w, h) for _, _, w, h in laid)
        chosen = []
        for number, size in enumerate(self._pieces):
            key = (min(size), max(size)) if self._turn else (size.w, size.h)
            if counts[key] > 0:
                counts[key] -= 1
                chosen.append(number)
        return tuple(chosen)

    def _best_fit_once(self, kinds: Kinds, width: int, lying: bool) -> int:
        highest = self._highest(width, lying)
        if not highest:
            return 1
        filling = filled(kinds, width, highest)
        if filling.laid:
            self._take(filling.laid, lying)
        return filling.work + 1


def _outward(step: int) -> int:
    """0, 1, -1, 2, -2, …"""
    return (step + 1) // 2 if step % 2 else -(step // 2)


def _assigned(pieces: Sequence[Size], found: list[Laid]) -> tuple[PackedPiece, ...]:
    """Which piece lies where: equal ones in their order, from the first place found on."""
    waiting: dict[tuple[int, int], list[Laid]] = defaultdict(list)
    for x, y, w, h in sorted(found, key=lambda place: (place[1], place[0]), reverse=True):
        waiting[min(w, h), max(w, h)].append((x, y, w, h))
    places = []
    for size in pieces:
        x, y, w, h = _pick(waiting[min(size), max(size)], size)
        places.append(PackedPiece(x, y, turned=(w, h) != tuple(size)))
    return tuple(places)


def _pick(waiting: list[Laid], size: Size) -> Laid:
    """The next place, one that need not be turned if there is any at the end of the list."""
    for index in range(len(waiting) - 1, -1, -1):
        if waiting[index][2:] == tuple(size):
            return waiting.pop(index)
    return waiting.pop()
