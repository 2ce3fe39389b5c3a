"""Where the pixels of pages are: reading page n of map m, and putting it away, whatever files hold it.

Everything that reads or writes pages goes through here. A store that keeps several pages in one file is a class beside
`PageFiles`, and a line in `stored_page`.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterable, Iterator, Sequence
from fractions import Fraction
from pathlib import Path
from typing import Protocol
from weakref import WeakValueDictionary

import numpy as np

from kivel.core.contents import Content
from kivel.core.digest import pixel_digest
from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import Compress, Indexed
from kivel.core.pixels.indexed import ColourTable, StoredPalette
from kivel.core.pixels.pixels import Pixels, Size, Value
from kivel.core.slicing.background import without_key
from kivel.files.images import FrameSource, ImageError, open_image
from kivel.files.manifest.model import Manifest, MapFile, MapMotion, Page
from kivel.files.manifest.names import COLOR
from kivel.files.output_set import OutputSet
from kivel.files.png.raster import Channels, needed_channels
from kivel.files.png.write import BAND_BYTES, encode_indexed, encode_png
from kivel.files.safety import reading, shown
from kivel.files.whole_sets import require_unreplaced

__all__ = [
    "EncodedPage",
    "PageArrays",
    "PageFiles",
    "PageStore",
    "PagesInPlace",
    "StoredMap",
    "StoredPage",
    "encoded_page",
    "map_file",
    "map_size",
    "page_files",
    "stored_page",
    "stored_picture",
    "stored_state",
]


class _PageFile:
    """A file's pixels, decoded once however many look at them, when they are first asked for."""

    def __init__(self, info: FrameSource) -> None:
        self.info = info
        self._lock = threading.Lock()
        self._image: Pixels | None = None
        self._digest = ""

    def pixels(self) -> Pixels:
        with self._lock:
            if self._image is None:
                self._image = self.info.load()
                self._image.setflags(write=False)  # others are given the same
            return self._image

    def digest(self) -> str:
        image = self.pixels()
        with self._lock:
            self._digest = self._digest or pixel_digest(image)
            return self._digest


_page_files: WeakValueDictionary[tuple[str, int, int, int, int], _PageFile] = WeakValueDictionary()
"""The pages in use, by path and state."""


def _page_file(path: Path, max_pixels: int) -> _PageFile:
    with reading(path):
        state = path.stat()
    key = (str(path), state.st_ino, state.st_mtime_ns, state.st_size, max_pixels)
    file = _page_files.get(key)
    if file is None:
        file = _page_files[key] = _PageFile(open_image(path, max_pixels=max_pixels)[0])
    return file


class StoredPage:
    """One map of a page as it is on the disk.

    `info` says how the file stores it; its sides are one part of this many `parts` of the page's; `ground` is what lies
    where no frame does.
    """

    def __init__(self, stored: _PageFile, file: MapFile, tell: Callable[[str], object]) -> None:
        self._file = stored
        self.info = stored.info
        self._digest = file.digest
        self._tell = tell
        self.parts = file.parts
        self.ground: Value | None = file.ground
        self._key = file.key
        self._lock = threading.Lock()
        self._image: Pixels | None = None

    @property
    def palette(self) -> StoredPalette | None:
        """Return the palette that the file has, the background colour transparent as it is in `pixels`."""
        palette, key = self.info.palette, self._key
        return palette.recoloured(lambda table: without_key(table, key)) if palette and key else palette

    def digest(self) -> str:
        """Return the digest of the pixels that are there."""
        return self._file.digest()

    def pixels(self) -> Pixels:
        """(H, W, 4); not to be changed, others are given the same array."""
        with self._lock:
            if self._image is None:
                image = self._file.pixels()
                # people do repaint sheets, and mean the new pixels
                if self._digest and self._file.digest() != self._digest:
                    require_unreplaced()
                    self._tell(f"{shown(self.info.path)}: edited since Kivel wrote it; the edited pixels are used")
                self._image = without_key(image, self._key)
            return self._image


def stored_page(
    manifest: Manifest, path: Path, number: int, map: str, *, max_pixels: int, tell: Callable[[str], object]
) -> StoredPage:
    """Page `number` of a manifest at `path`, as one of its maps shows it.

    `tell` is given a sentence when its pixels turn out to be others than the manifest knows.

    Raises
    ------
    ImageError
        If there is no such map, or the file is not of the size that the manifest states.
    OutputError, PngError
        If it cannot be read.
    """
    page = manifest.pages[number]
    if map not in page.maps:
        raise ImageError(f"pages[{number}] has no map {map!r}; there are {', '.join(page.maps)}", where=shown(path))
    file = page.maps[map]
    stored = StoredPage(_page_file(path.parent / file.file, max_pixels), file, tell)
    size = map_size(page, file)
    if stored.info.size != size:
        where = shown(path.parent / file.file)
        raise ImageError(
            f"{stored.info.size} px, its manifest says {size}; run the command that made it again", where=where
        )
    return stored


def stored_picture(path: Path, *, max_pixels: int) -> StoredPage:
    """The picture in a file by itself, whatever a manifest knows of it; decoded once for all who hold it.

    Raises what `stored_page` does.
    """
    return StoredPage(_page_file(path, max_pixels), MapFile(path.name, ""), lambda _text: None)


def stored_state(folder: Path, file: MapFile, *, max_pixels: int) -> tuple[Size, str]:
    """The size of a map's pixels as they are on the disk, and their digest.

    Raises
    ------
    KivelError
        If they cannot be read.
    """
    stored = _page_file(folder / file.file, max_pixels)
    return stored.info.size, stored.digest()


def map_size(page: Page, file: MapFile) -> Size:
    """The size that a map of a page has."""
    return Size(page.size[0] // file.parts, page.size[1] // file.parts)


def page_files(manifest: Manifest) -> Iterator[MapFile]:
    """Every file that pages are in, by page and map."""
    for page in manifest.pages:
        yield from page.maps.values()


class EncodedPage(NamedTuple):
    """A file's suffix, its bytes in `length` pieces or so, and the pixels as they will be read from it.

    `channels` are those that its pixels need, and `indexed` says whether it has a palette instead.
    """

    suffix: str
    pieces: Iterable[bytes]
    length: int
    image: Pixels
    channels: Channels = Channels(colour=True, alpha=True)
    indexed: bool = False


def encoded_page(
    image: Pixels,
    *,
    compress: Compress,
    jobs: int = 1,
    indexed: Indexed = "keep",
    palette: StoredPalette | None = None,
    channels: Channels | None = None,
) -> EncodedPage:
    """An image as a file: PNG, or OpenEXR for float pixels.

    Parameters
    ----------
    indexed : "keep", "never" or "smallest"
        `keep` stores it with `palette` if that has all its colours; `smallest` with any palette, where that is smaller.
    channels : Channels, optional
        Whether colour and alpha are stored where there is no palette; None stores what is needed.
    """
    if image.dtype == np.float32:
        from kivel.files.exr import encoded_and_back  # an extra

        data, back = encoded_and_back(image)
        return EncodedPage(".exr", [data], 1, back)
    length = image.nbytes // BAND_BYTES + 1
    if indexed == "keep" and palette and channels is None:
        indices = ColourTable(palette.table).indices_of(image, palette.indices and palette.indices())
        if indices is not None:
            pieces = encode_indexed(indices, palette.table, compress=compress, jobs=jobs)
            return EncodedPage(".png", pieces, length, image, needed_channels([image]), indexed=True)
    stored = channels or needed_channels([image])
    smallest = indexed == "smallest" and channels is None
    pieces = encode_png(image, compress=compress, jobs=jobs, channels=stored, palettes=smallest)
    return EncodedPage(".png", pieces, length, image, stored)


class StoredMap(NamedTuple):
    """Which map a page shows: its name, what its values mean, its size as one part of this many, and its motion.

    `palette` is the one that its frames have, to be kept.
    """

    name: str = COLOR
    content: Content = Content("color", "color")
    parts: int = 1
    motion: MapMotion | None = None
    palette: StoredPalette | None = None


class PageStore(Protocol):
    """Where the pages of a layout are put."""

    def put(self, number: int, map: StoredMap, image: Pixels, ground: Value | None = None) -> MapFile:
        """Put one page of one map away, and say what a manifest says of it."""

    def finish(self, files: Sequence[str]) -> list[str]:
        """Do what is to be done once all pages are there, in these files; notes on what was found beside them."""


class PageFiles:
    """A file for each page and map: `moth.png`; `moth-1.png` of several pages; `moth.normal.png` for a companion map.

    Parameters
    ----------
    count : int
        How many pages there are.
    watched : callable
        Given the pieces of a file and how many there are, gives them on.
    """

    def __init__(
        self,
        out: OutputSet,
        target: Path,
        count: int,
        *,
        compress: Compress,
        jobs: int,
        watched: Callable[[Iterable[bytes], int], Iterable[bytes]],
        indexed: Indexed = "keep",
    ) -> None:
        self._out = out
        self._target = target
        self._count = count
        self._compress: Compress = compress
        self._indexed: Indexed = indexed
        self._jobs = jobs
        self._watched = watched

    def put(self, number: int, map: StoredMap, image: Pixels, ground: Value | None = None) -> MapFile:
        encoded = encoded_page(
            image, compress=self._compress, jobs=self._jobs, indexed=self._indexed, palette=map.palette
        )
        path = self._target.with_name(page_name(self._target.stem, number, self._count, map.name) + encoded.suffix)
        self._out.add(path, self._watched(encoded.pieces, encoded.length))
        return map_file(path.name, map, encoded.image, ground)

    def finish(self, files: Sequence[str]) -> list[str]:
        """A note on the pages of an earlier run, with more pages, that this one does not write again."""
        older = []
        number = 0
        while (path := self._target.with_name(f"{self._target.stem}-{number}{self._target.suffix}")).exists():
            older += [] if path.name in files else [path]
            number += 1
        return (
            [f"{shown(older[0])}: {len(older)} older pages are left over, starting here; remove them"] if older else []
        )


class PagesInPlace:
    """The files of a manifest's pages, written again."""

    def __init__(
        self,
        out: OutputSet,
        manifest: Manifest,
        path: Path,
        *,
        compress: Compress,
        jobs: int,
        watched: Callable[[Iterable[bytes], int], Iterable[bytes]],
        indexed: Indexed = "keep",
    ) -> None:
        self._out = out
        self._manifest = manifest
        self._folder = path.parent
        self._compress: Compress = compress
        self._indexed: Indexed = indexed
        self._jobs = jobs
        self._watched = watched

    def put(self, number: int, map: StoredMap, image: Pixels, ground: Value | None = None) -> MapFile:
        encoded = encoded_page(
            image, compress=self._compress, jobs=self._jobs, indexed=self._indexed, palette=map.palette
        )
        file = self._manifest.pages[number].maps[map.name].file
        self._out.add(self._folder / file, self._watched(encoded.pieces, encoded.length))
        return map_file(file, map, encoded.image, ground)

    def finish(self, files: Sequence[str]) -> list[str]:  # noqa: ARG002 - the pages are those that there were
        return []


class PageArrays:
    """Pages that stay in memory: `images` has them by the names that their files would have."""

    def __init__(self, stem: str, count: int) -> None:
        self._stem = stem
        self._count = count
        self.images: dict[str, Pixels] = {}

    def put(self, number: int, map: StoredMap, image: Pixels, ground: Value | None = None) -> MapFile:
        suffix = ".exr" if image.dtype == np.float32 else ".png"
        name = page_name(self._stem, number, self._count, map.name) + suffix
        self.images[name] = image
        return map_file(name, map, image, ground)

    def finish(self, files: Sequence[str]) -> list[str]:  # noqa: ARG002 - nothing is on the disk
        return []


def page_name(stem: str, number: int, count: int, map: str) -> str:
    """Return what a page is called, without its suffix."""
    page = f"-{number}" if count > 1 else ""
    companion = "" if map == COLOR else f".{map}"
    return f"{stem}{page}{companion}"


def map_file(name: str, map: StoredMap, image: Pixels, ground: Value | None) -> MapFile:
    """Return what a manifest says of a file that holds these pixels."""
    scale = Fraction(1, map.parts) if map.parts > 1 else None
    return MapFile(
        file=name,
        digest=pixel_digest(image),
        kind=map.content.name,
        scale=scale,
        ground=ground,
        motion=map.motion,
    )
