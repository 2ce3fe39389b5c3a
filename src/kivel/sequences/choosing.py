"""Series side by side in a folder or under a pattern: what each is called, which are meant, and how they are listed."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from fnmatch import fnmatchcase
from pathlib import Path, PurePath

from kivel.core.errors import NEW_LINE, option
from kivel.core.named_tuples import NamedTuple
from kivel.core.numbering import SequenceError, Series, series_name
from kivel.core.pixels.pixels import Size
from kivel.core.wording import counted, first_few
from kivel.files.images import open_image
from kivel.files.safety import shown
from kivel.sequences.settings import SourceSettings

__all__ = ["ListedSeries", "NamedSeries", "chosen_series", "listed_series", "once_each", "stem_of"]

_LISTED = 12


class NamedSeries(NamedTuple):
    """A series, its name among others, the folder of its files, and what goes before frames' names.

    `manifest` describes it, where one does; `clips` are the names of those that it has by that, and `pick` those of
    them that are meant, where not all are.
    """

    name: str
    series: Series
    folder: Path
    prefix: str = ""
    clips: tuple[str, ...] = ()
    pick: str | None = None
    manifest: Path | None = None

    @property
    def quoted(self) -> str:
        """How to pick it: its pattern, or the names themselves where no pattern can."""
        if self.manifest and not self.series.pattern:
            return shown(self.manifest)
        if self.series.pattern:
            return f'"{shown(self.folder / self.series.pattern)}"'
        return first_few([shown(self.folder / name) for name in self.series.names])


class ListedSeries(NamedTuple):
    """A series to be listed: its name, how to pick it, its frames, and their sizes, the commonest first."""

    name: str
    pattern: str
    frames: int
    numbers: tuple[int, int] | None
    sizes: tuple[tuple[Size, int], ...]


def stem_of(series: Series) -> str:
    """Return what a series is called: its pattern without the number and what joins it on."""
    name = series.names[0]
    if series.pattern is None and not series.numbers:
        return series_name(PurePath(name).stem) or PurePath(name).stem
    parts = re.split(r"[-_. ]*[#*]+", PurePath(series.pattern or name).stem)
    return "".join(parts).strip("-_. ") or PurePath(name).stem


def once_each(named: Sequence[NamedSeries]) -> tuple[list[NamedSeries], list[str]]:
    """The same series, no file in two of them; with a note where a number is there both padded and unpadded."""
    taken: set[Path] = set()
    result: list[NamedSeries] = []
    notes: list[str] = []
    for one in named:
        series = one.series
        left = [number for number, name in enumerate(series.names) if one.folder / name not in taken]
        taken |= {one.folder / name for name in series.names}
        if len(left) < len(series.names):
            again = [series.names[number] for number in left]
            notes.append(f"{one.name}: numbers with and without leading zeros, each file used once: {first_few(again)}")
            series = series._replace(
                names=tuple(again), numbers=tuple(series.numbers[number] for number in left) if series.numbers else ()
            )
        if series.names:
            result.append(one._replace(series=series))
    return result, notes


def chosen_series(named: Sequence[NamedSeries], settings: SourceSettings, where: str) -> list[NamedSeries]:
    """Those that are meant: the only one, those picked, or all where several are wanted.

    Raises
    ------
    SequenceError
        If none is picked, or several where one is wanted: all of them, with the pattern of each.
    """
    found = list(named)
    if settings.pick is not None and not (settings.one_of_many and len(named) == 1):
        found = [one for one in named if _is_meant(one, settings.pick)] or _with_clips(named, settings.pick)
        found = found or _each_meant(named, settings.pick, where)
    if len(found) > 1 and not (settings.series or (settings.pick is not None and settings.several)):
        raise SequenceError(_several(found, settings), where=where)
    return found


def _with_clips(named: Sequence[NamedSeries], pick: str) -> list[NamedSeries]:
    """The one of which clips are meant."""
    words = [word.strip() for word in pick.split(",")]
    for one in named:
        if one.clips and all(any(fnmatchcase(clip, word) for clip in one.clips) for word in words):
            return [one._replace(pick=pick)]
    return []


def _each_meant(named: Sequence[NamedSeries], pick: str, where: str) -> list[NamedSeries]:
    """Those that a list means, `run,walk*`; raises `SequenceError` if one of its names means none."""
    meant: list[NamedSeries] = []
    for word in pick.split(","):
        found = [one for one in named if _is_meant(one, word.strip())]
        if not found:
            names = first_few([name for one in named for name in (one.name, *one.clips)])
            raise SequenceError(f"there is no series {word.strip()!r}; there are {names}", where=where)
        meant += [one for one in found if one not in meant]
    return meant


def _is_meant(one: NamedSeries, pick: str) -> bool:
    patterns = (one.series.pattern, shown(one.folder / (one.series.pattern or "")))
    return fnmatchcase(one.name, pick) or pick in patterns


def listed_series(named: Sequence[NamedSeries], settings: SourceSettings) -> list[ListedSeries]:
    """Return what there is to say of each, those of several frames first."""
    listed = []
    for one in sorted(named, key=lambda each: len(each.series.names) == 1):
        numbers = one.series.numbers
        sizes = Counter(
            frame.size
            for name in one.series.names
            for frame in open_image(one.folder / name, max_pixels=settings.max_pixels)
        )
        span = (numbers[0], numbers[-1]) if numbers else None
        listed.append(ListedSeries(one.name, one.quoted, sum(sizes.values()), span, tuple(sizes.most_common())))
    return listed


def _several(named: Sequence[NamedSeries], settings: SourceSettings) -> str:
    twice = Counter(one.folder / name for one in named for name in one.series.names)
    first = sorted(named, key=lambda each: len(each.series.names) == 1)[:_LISTED]
    width = max(len(one.quoted) for one in first)
    todo = f"{option('series', first[0].name)} or a pattern in quotes chooses one"
    lines = [f"{len(named)} series; {todo}:"]
    for one in first:
        series = one.series
        numbers = f", {series.numbers[0]}-{series.numbers[-1]}" if series.numbers else ""
        size = open_image(one.folder / series.names[0], max_pixels=settings.max_pixels)[0].size
        lines.append(f"  {one.quoted:{width}}  {counted(len(series.names), 'frame')}{numbers}, {size} px")
    if len(named) > _LISTED:
        lines.append(f"  and {len(named) - _LISTED} more")
    lines += [f"  ({hint})" for hint in _companions(named)]
    both = sorted(path.name for path, times in twice.items() if times > 1)
    if both:
        lines.append(
            f"  (a number appears with and without leading zeros; {first_few(both)} match both ways of writing)"
        )
    return NEW_LINE.join(lines)


def _companions(named: Sequence[NamedSeries]) -> list[str]:
    """Return what looks like a map of another series: as many frames, and names that end in one more word."""
    stems = {one.name: len(one.series.names) for one in named}
    found = []
    for one in named:
        base, underline, word = one.name.rpartition("_")
        if underline and stems.get(base) == len(one.series.names):
            suffix = option("map-suffix", f"{word}=_{word}")
            found.append(f"{one.name} looks like a map of {base}: {suffix} includes it")
    return found
