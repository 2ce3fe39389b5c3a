"""`NAME.regions.toml`: the named rectangles of one picture or of several, made to be edited by hand."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import Annotated, Any

from kivel.core.errors import KivelError
from kivel.core.fields import Holds, described
from kivel.core.named_tuples import NamedTuple
from kivel.core.pivots import PivotRequest, parse_pivot
from kivel.core.pixels.pixels import Rect, Size
from kivel.core.records import record
from kivel.core.slicing.regions import Region
from kivel.core.wording import first_few
from kivel.files.documents import TomlError
from kivel.files.models import KeyPath, key_path_text
from kivel.files.safety import shown
from kivel.files.toml_file import TomlFile, read_toml_file

__all__ = ["REGIONS_SUFFIX", "ImageRegions", "RegionsFile", "new_regions_text", "read_regions"]

REGIONS_SUFFIX = ".regions.toml"
_FORBIDDEN = frozenset('<>:"/|?*\\') | {chr(code) for code in range(32)}
_FARTHEST = 1_000_000
_MOST_BYTES = 64 << 20


_Side = Annotated[int, Holds(least=1, most=_FARTHEST)]
_Offset = Annotated[int, Holds(least=0, most=_FARTHEST)]
_ImageName = Annotated[str, Holds(like='the name of a picture, like "shed.png"')]


@record
class _Entry:
    """One region as it is in the file."""

    name: str = described("", like='a name that a file can have, like "rake"')
    rect: tuple[int, int, int, int] = described(
        "", like="[x, y, width, height] in pixels, like [4, 10, 30, 64]", items=(_Offset, _Offset, _Side, _Side)
    )
    pivot: str | tuple[int | float, int | float] | None = described(
        "", like='a place, like "bottom", or pixels, like [16, 30]', default=None
    )
    clip: str | None = described("", like='text, like "tools"', default=None)
    look: str = described("", like="the text that Kivel wrote", default="")
    lost: bool = False


_Entries = Annotated[tuple[_Entry, ...], Holds(like="[[region]], with two brackets, for each of them")]


@record
class _Picture:
    """One of several pictures in a file."""

    file: _ImageName
    region: _Entries = ()


@record
class _OnePicture:
    """A file about one picture."""

    image: _ImageName
    region: _Entries = ()


@record
class _Pictures:
    """A file about several."""

    image: tuple[_Picture, ...]


class ImageRegions(NamedTuple):
    """The regions of one picture; `place` is where they are in the file."""

    image: str
    regions: tuple[Region, ...]
    place: KeyPath


class RegionsFile(NamedTuple):
    """Holds what a file says of each picture, and its text, in which all that a person wrote stays."""

    file: TomlFile
    images: tuple[ImageRegions, ...]

    @property
    def path(self) -> Path:
        """Where it is."""
        return self.file.path

    def of(self, image: Path, size: Size) -> ImageRegions:
        """The regions of a picture.

        Raises
        ------
        TomlError
            If it says nothing of that picture, or one of them is not inside it.
        """
        known = [one for one in self.images if (self.path.parent / one.image).resolve() == image.resolve()]
        if not known:
            names = first_few([one.image for one in self.images])
            raise TomlError(f"it describes {names}, not {image.name}; add that name", where=shown(self.path))
        for number, region in enumerate(known[0].regions):
            if not region.lost and not region.rect.fits(size):
                place = (*known[0].place, "region", number, "rect")
                x, y, w, h = region.rect
                raise self.file.error(
                    place, f"[{x}, {y}, {w}, {h}] reaches beyond {image.name}, {size} px; make it smaller, or move it"
                )
        return known[0]

    def changed(self, of: ImageRegions, kept: Sequence[Region], new: Sequence[Region]) -> str:
        """The text with regions as they are now; comments, order and all other keys stay."""
        import tomlkit

        document = tomlkit.parse(self.file.text)
        table: Any = document
        for part in of.place:
            table = table[part]
        for entry, region in zip(table.get("region", ()), kept, strict=True):
            _fill(entry, region)
        for region in new:
            if "region" not in table:
                table["region"] = tomlkit.aot()
            table["region"].append(_filled(region))
        return tomlkit.dumps(document)


def new_regions_text(image: str, regions: Iterable[Region]) -> str:
    """The text of a new file about one picture."""
    import tomlkit

    document = tomlkit.document()
    document["image"] = image
    tables = tomlkit.aot()
    for region in regions:
        tables.append(_filled(region))
    document["region"] = tables
    return tomlkit.dumps(document)


def read_regions(path: Path) -> RegionsFile:
    """Return what a regions file says.

    Raises
    ------
    KivelError
        If it cannot be read, or says what it may not: in which line, and of which key.
    """
    file = read_toml_file(path, most=_MOST_BYTES)
    said: list[tuple[KeyPath, str, tuple[_Entry, ...]]]
    if isinstance(file.content().get("image"), list):
        pictures = file.as_model(_Pictures).image
        said = [(("image", number), one.file, one.region) for number, one in enumerate(pictures)]
    else:
        only = file.as_model(_OnePicture)
        said = [((), only.image, only.region)]
    images = tuple(
        ImageRegions(
            name,
            tuple(_region(file, one, (*place, "region", number)) for number, one in enumerate(entries)),
            place,
        )
        for place, name, entries in said
    )
    _check_names(file, images)
    return RegionsFile(file, images)


def _region(file: TomlFile, entry: _Entry, place: KeyPath) -> Region:
    if not entry.name.strip(" .") or _FORBIDDEN & set(entry.name):
        raise file.error(
            (*place, "name"), f'expected a name that a file can have, like "rake", found {entry.name!r}'
        )  # fmt: skip
    pivot = None if entry.pivot is None else _pivot(file, entry.pivot, (*place, "pivot"))
    return Region(entry.name, Rect(*entry.rect), pivot, entry.clip or None, entry.look, entry.lost)


def _pivot(file: TomlFile, said: str | tuple[int | float, ...], place: KeyPath) -> PivotRequest:
    """`"bottom"`, or `[16, 30]` in pixels of the region."""
    try:
        request = parse_pivot(said if isinstance(said, str) else ",".join(map(str, said)))
    except KivelError as error:
        raise file.error(place, error.message) from error
    if request.pattern is not None:
        raise file.error(place, f'expected a place, like "bottom", or pixels, like [16, 30], found {said!r}')
    return request


def _check_names(file: TomlFile, images: Sequence[ImageRegions]) -> None:
    known: dict[str, KeyPath] = {}
    for one in images:
        for number, region in enumerate(one.regions):
            place = (*one.place, "region", number)
            # on some systems files of such names are one
            first = known.setdefault(region.name.casefold(), place)
            if first != place:
                message = f"{region.name!r} is already used by {key_path_text(first)}; rename one"
                raise file.error((*place, "name"), message)


def _filled(region: Region) -> Any:
    import tomlkit

    table = tomlkit.table()
    table["name"] = region.name
    _fill(table, region)
    return table


def _fill(table: Any, region: Region) -> None:
    """Put into a table what a region is now, and nothing that is there already."""
    rect = list(region.rect)
    if list(table.get("rect", ())) != rect:
        table["rect"] = rect
    if region.look and table.get("look") != region.look:
        table["look"] = region.look
    if region.lost:
        table["lost"] = True
    elif "lost" in table:
        del table["lost"]
