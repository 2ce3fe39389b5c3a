"""The frames that are in a folder now, with what its manifest says of those that were there when it was written."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import cached_property, partial
from pathlib import Path, PurePath

from kivel.core.digest import pixel_digest
from kivel.core.errors import KivelError
from kivel.core.named_tuples import NamedTuple
from kivel.core.numbering import natural_order
from kivel.core.pixels.pixels import Pixels, Rect, Size, size_of
from kivel.core.playback.reconciling import FramesNow, reconciled
from kivel.core.slicing.background import without_key
from kivel.core.wording import first_few
from kivel.files.images import open_image
from kivel.files.manifest.model import CutFrom, FramePlace, Manifest, MapFile, Page
from kivel.files.manifest.names import COLOR
from kivel.files.page_store import StoredPage, map_size, stored_picture
from kivel.files.threads import default_jobs, in_order
from kivel.sequences.reconciling.described_folders import DescribedFolder
from kivel.sequences.reconciling.frame_edits import FrameEdit, frame_edits
from kivel.sequences.reconciling.frame_order import frame_order
from kivel.sequences.reconciling.same_frames import Seen, same_frames
from kivel.sequences.settings import SourceSettings

__all__ = ["FolderNow", "folder_now"]

_MOST_HELD = 1 << 26
"""Pixels of files that are kept decoded until they are read; of more only digests are taken."""


class FolderNow(NamedTuple):
    """The files that are frames now, in order, the manifest brought up to them, and what was done since.

    `cuts` is where each frame was on the sheet that it was sliced from, `gone` where those were that were removed.
    `seen` keeps what was decoded until it is read. `holes` are the places of frames that are not there and keep theirs;
    another file is in for them.
    """

    files: tuple[str, ...]
    manifest: Manifest
    cuts: tuple[CutFrom | None, ...]
    gone: tuple[CutFrom, ...]
    edits: tuple[FrameEdit, ...]
    warnings: tuple[str, ...]
    seen: Sequence[Seen]
    holes: tuple[int, ...] = ()


def folder_now(
    folder: DescribedFolder, asked: Sequence[str], settings: SourceSettings, *, numbered: bool
) -> FolderNow | None:
    """Return the frames that are there now, those that are asked for among them; None if the manifest has none of them.

    Parameters
    ----------
    asked : sequence of str
        File names in the folder; they may be a part of what it describes, and others.
    numbered : bool
        They are one numbered series, in its order.
    """
    there = [name for name in folder.files if (folder.path.parent / name).is_file()]
    files = _in_usual_order(there, asked, numbered=numbered)
    old, new = _before(folder, settings), _seen(folder.path.parent, files, settings)
    was = same_frames(old, new)
    if all(number is None for number in was):
        return None
    order = frame_order(_stems(old), _stems(new), was)
    frames = [(new[place], was[place]) for place in order]
    holes = [number for number in range(len(old)) if number not in was] if settings.keep_holes else []
    for number in holes:  # by the place that it had: its name may be another's by now
        later = [place for place, (_, before) in enumerate(frames) if before is not None and before > number]
        frames.insert(min(later, default=len(frames)), (old[number], number))
    new, was = [one for one, _ in frames], tuple(before for _, before in frames)
    return _Bringing(folder, old, new, was, frozenset(holes)).up_to_date()


def _in_usual_order(there: Sequence[str], asked: Sequence[str], *, numbered: bool) -> list[str]:
    """All files that are asked for or are there, in counting order."""
    every = dict.fromkeys([*asked, *there])
    return list(every) if numbered and len(every) == len(asked) else natural_order(every)


def _seen(place: Path, files: Sequence[str], settings: SourceSettings) -> list[Seen]:
    """Files by their pixels; they are decoded once for all who read them, unless they are too many to be held."""

    def opened(name: str) -> StoredPage:
        return stored_picture(place / name, max_pixels=settings.max_pixels)

    held = {name: opened(name) for name in files}
    sizes = [picture.info.size for picture in held.values()]
    if sum(w * h for w, h in sizes) > _MOST_HELD:
        held = {}
    digests = in_order(lambda name: (held.get(name) or opened(name)).digest(), files, jobs=default_jobs())
    return [
        Seen(name, size, digest, pixels=partial(_pixels, held.get(name), partial(opened, name)))
        for name, size, digest in zip(files, sizes, digests, strict=True)
    ]


def _pixels(held: StoredPage | None, opened: Callable[[], StoredPage]) -> Pixels:
    return (held or opened()).pixels()


def _before(folder: DescribedFolder, settings: SourceSettings) -> list[Seen]:
    sheet = _SheetBefore(folder, settings)
    pages = [folder.manifest.pages[frame.page] for frame in folder.manifest.frames]
    return [
        Seen(name, map_size(page, page.maps[COLOR]), page.maps[COLOR].digest, pixels=partial(sheet.part, frame.cut))
        for name, page, frame in zip(folder.files, pages, folder.manifest.frames, strict=True)
    ]


class _SheetBefore:
    """The sheet that frames were sliced from, for whoever asks how a frame looked whose file is gone."""

    def __init__(self, folder: DescribedFolder, settings: SourceSettings) -> None:
        self._folder, self._settings = folder, settings

    def part(self, cut: CutFrom | None) -> Pixels | None:
        """Return what was cut there; None where that is not known any more."""
        page = self._page
        if page is None or cut is None or cut.page or not Rect(*cut.rect).fits(size_of(page)):
            return None
        return Rect(*cut.rect).of(page)

    @cached_property
    def _page(self) -> Pixels | None:
        sheet = self._folder.manifest.sliced_from
        if sheet is None:
            return None
        try:
            images = open_image(self._folder.path.parent / sheet.file, max_pixels=self._settings.max_pixels)
            page = images[0].load()
        except KivelError:
            return None
        return without_key(page, sheet.key) if pixel_digest(page) == sheet.digest else None


class _Bringing:
    """A manifest, as it is brought up to the frames of now."""

    def __init__(
        self,
        folder: DescribedFolder,
        old: Sequence[Seen],
        new: Sequence[Seen],
        was: tuple[int | None, ...],
        holes: frozenset[int],
    ) -> None:
        self._place, self._manifest = folder.path.parent, folder.manifest
        self._tails = folder.map_tails()
        self._old, self._new, self._was, self._holes = old, new, was, holes

    def up_to_date(self) -> FolderNow:
        manifest = self._manifest
        frames = FramesNow(_stems(self._old), _stems(self._new), self._was)
        found = reconciled(manifest.clips, manifest.groups, frames)
        number = frames.numbers()
        pages = tuple(self._page(place).renumbered(number) for place in range(len(self._new)))
        places = tuple(self._frame(place) for place in range(len(self._new)))
        cuts = [frame.cut for frame in manifest.frames]
        return FolderNow(
            files=tuple(one.name for one in self._new),
            manifest=replace(manifest, pages=pages, frames=places, clips=found.clips, groups=found.groups),
            cuts=tuple(None if before is None else cuts[before] for before in self._was),
            gone=tuple(cut for before, cut in enumerate(cuts) if before not in number and cut),
            edits=frame_edits(self._old, self._new, frames, manifest.clips, found),
            warnings=(*self._unclear(), *(text for _, text in found.warnings)),
            seen=self._new,
            holes=tuple(place for place, before in enumerate(self._was) if before in self._holes),
        )

    def _unclear(self) -> list[str]:
        """Return what is to be said of frames under new names that look as others do."""
        renamed = [(before, place) for place, before in enumerate(self._was) if before is not None]
        renamed = [(before, place) for before, place in renamed if self._old[before].name != self._new[place].name]
        times = Counter(self._new[place].digest for _, place in renamed)
        equal = [self._new[place].name for _, place in renamed if times[self._new[place].digest] > 1]
        return [f"{first_few(equal)} look the same: their order decides which is which"] if equal else []

    def _page(self, place: int) -> Page:
        """The page that a file is: of a frame that was added, as its neighbour's."""
        before, new = self._was[place], self._new[place]
        if before in self._holes:
            there = [n for n, was in enumerate(self._was) if was not in self._holes]
            return self._page(min(there, key=lambda n: abs(n - place)))
        page = self._manifest.pages[self._like(place).page]
        color = page.maps[COLOR]
        if before is None or (new.digest, new.size) != (self._old[before].digest, self._old[before].size):
            color = replace(color, digest="")  # of what is there now nothing is known
        maps = {COLOR: replace(color, file=new.name)}
        for name in page.maps:
            if name != COLOR and (file := self._map(page, name, before, new.name)):
                maps[name] = file
        return replace(page, size=Size(new.size.w * color.parts, new.size.h * color.parts), maps=maps)

    def _map(self, page: Page, name: str, before: int | None, now: str) -> MapFile | None:
        """The companion map of a file: its own if that is called after it, else what a renamed one had."""
        file = page.maps[name]
        if before is not None and self._old[before].name == now:
            return file
        own = PurePath(now).stem + self._tails[name] if name in self._tails else ""
        if own and (self._place / own).is_file():
            return replace(file, file=own, digest="")
        return file if before is not None and (self._place / file.file).is_file() else None

    def _frame(self, place: int) -> FramePlace:
        before, new = self._was[place], self._new[place]
        like = self._like(place)
        stem = PurePath(new.name).stem
        size = Size(new.size.w * self._parts(like), new.size.h * self._parts(like))
        here = replace(like, page=place, rect=Rect(0, 0, *size), canvas=size, outline=None)
        if before is None:
            return replace(here, name=stem, source=new.name, cut=None, set=None, extra={})
        was_called = PurePath(self._old[before].name).stem
        here = replace(here, name=stem) if like.name == was_called else here
        return replace(here, outline=like.outline if size == like.canvas else None)

    def _parts(self, like: FramePlace) -> int:
        return self._manifest.pages[like.page].maps[COLOR].parts

    def _like(self, place: int) -> FramePlace:
        """The frame that it was; of an added one the one before it, else the one after it."""
        return self._manifest.frames[self._nearest[place]]

    @cached_property
    def _nearest(self) -> list[int]:
        """For each place the old number of the frame in it, else before it, else of the first that there is."""
        nearest = next((before for before in self._was if before is not None), 0)
        found = []
        for before in self._was:
            nearest = nearest if before is None else before
            found.append(nearest)
        return found


def _stems(frames: Sequence[Seen]) -> tuple[str, ...]:
    return tuple(PurePath(one.name).stem for one in frames)
