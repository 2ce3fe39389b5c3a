"""`NAME.regions.toml`: the named rectangles of one picture or of several, made to be edited by hand."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from pathlib import Path
from typing import Any

from kivel.core.errors import KivelError
from kivel.core.named_tuples import NamedTuple
from kivel.core.pivots import PivotRequest, parse_pivot
from kivel.core.pixels.pixels import Rect, Size
from kivel.core.slicing.regions import Region
from kivel.core.wording import first_few
from kivel.files.documents import TomlError, read_toml
from kivel.files.safety import file_text, shown
from kivel.files.toml_places import TomlPlace, key_text, toml_lines

__all__ = ["REGIONS_SUFFIX", "ImageRegions", "RegionsFile", "new_regions_text", "read_regions"]

REGIONS_SUFFIX = ".regions.toml"
_FORBIDDEN = frozenset('<>:"/|?*\\') | {chr(code) for code in range(32)}
_FARTHEST = 1_000_000
_MOST_BYTES = 64 << 20


class ImageRegions(NamedTuple):
    """The regions of one picture; `place` is where they stand in the file."""

    image: str
    regions: tuple[Region, ...]
    place: TomlPlace


class RegionsFile(NamedTuple):
    """What a file says of each picture, and its text, in which all that a person wrote stays."""

    path: Path
    text: str
    images: tuple[ImageRegions, ...]

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
            raise TomlError(f"it is about {names}, not {image.name}; write its name there", where=shown(self.path))
        for number, region in enumerate(known[0].regions):
            if not region.lost and not region.rect.fits(size):
                place = (*known[0].place, "region", number, "rect")
                x, y, w, h = region.rect
                raise self._error(
                    place, f"[{x}, {y}, {w}, {h}] reaches beyond {image.name}, {size} px; make it smaller, or move it"
                )
        return known[0]

    def changed(self, of: ImageRegions, kept: Sequence[Region], new: Sequence[Region]) -> str:
        """The text with regions as they are now; comments, order and all other keys stay."""
        import tomlkit

        document = tomlkit.parse(self.text)
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

    def _error(self, place: TomlPlace, message: str) -> TomlError:
        return _error(self.path, toml_lines(self.text), place, message)


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
    """What a regions file says.

    Raises
    ------
    KivelError
        If it cannot be read, or says what it may not: in which line, and of which key.
    """
    text = file_text(path, most=_MOST_BYTES)
    content = read_toml(text, shown(path))
    lines = toml_lines(text)

    def wrong(place: TomlPlace, message: str) -> TomlError:
        return _error(path, lines, place, message)

    if "image" not in content:
        raise TomlError('it says of no picture; begin it with image = "NAME.png"', where=shown(path))
    if isinstance(content["image"], list):
        entries = [(("image", number), one) for number, one in enumerate(content["image"])]
        images = [_image(one, place, "file", wrong) for place, one in entries]
    else:
        images = [_image(content, (), "image", wrong)]
    _check_names(images, wrong)
    return RegionsFile(path, text, tuple(images))


Wrong = Callable[[TomlPlace, str], TomlError]


def _error(path: Path, lines: dict[TomlPlace, int], place: TomlPlace, message: str) -> TomlError:
    """What is wrong, at the line of the place, or of what it should be in."""
    known = place
    while known and known not in lines:  # ends: it gets shorter
        known = known[:-1]
    line = f":{lines[known]}" if known else ""
    return TomlError(message, where=f"{shown(path)}{line}: {key_text(place)}")


def _image(table: Any, place: TomlPlace, key: str, wrong: Wrong) -> ImageRegions:
    if not isinstance(table, dict) or not isinstance(table.get(key), str) or not table[key]:
        found = table.get(key) if isinstance(table, dict) else table
        raise wrong((*place, key), f'expected the name of a picture, like "shed.png", found {found!r}')
    regions = table.get("region", [])
    if not isinstance(regions, list):
        raise wrong((*place, "region"), "expected [[region]], with two brackets, for each of them")
    places = [(*place, "region", number) for number in range(len(regions))]
    return ImageRegions(
        table[key], tuple(_region(one, at, wrong) for one, at in zip(regions, places, strict=True)), place
    )


def _region(table: Any, place: TomlPlace, wrong: Wrong) -> Region:
    if not isinstance(table, dict):
        raise wrong(place, f"expected a table with name and rect, found {table!r}")
    name = table.get("name")
    if not isinstance(name, str) or not name.strip(" .") or _FORBIDDEN & set(name):
        raise wrong((*place, "name"), f'expected a name that a file can have, like "rake", found {name!r}')
    for key, kind, like in (("clip", str, '"tools"'), ("look", str, "what Kivel wrote"), ("lost", bool, "true")):
        if not isinstance(table.get(key, kind()), kind):
            raise wrong((*place, key), f"expected {like}, found {table[key]!r}")
    return Region(
        name,
        _rect(table.get("rect"), place, wrong),
        _pivot(table.get("pivot"), place, wrong),
        table.get("clip") or None,
        table.get("look", ""),
        table.get("lost", False),
    )


def _rect(value: Any, place: TomlPlace, wrong: Wrong) -> Rect:
    numbers = value if isinstance(value, list) and len(value) == 4 else []
    whole = all(isinstance(one, int) and not isinstance(one, bool) and 0 <= one <= _FARTHEST for one in numbers)
    if not numbers or not whole or min(numbers[2:]) < 1:
        raise wrong(
            (*place, "rect"), f"expected [x, y, width, height] in pixels, like [4, 10, 30, 64], found {value!r}"
        )
    return Rect(*numbers)


def _pivot(value: Any, place: TomlPlace, wrong: Wrong) -> PivotRequest | None:
    """`"bottom"`, or `[16, 30]` in pixels of the region."""
    if value is None:
        return None
    text = ",".join(map(str, value)) if isinstance(value, list) else value
    try:
        request = parse_pivot(text) if isinstance(text, str) else None
    except KivelError as error:
        raise wrong((*place, "pivot"), error.message) from error
    if request is None or request.pattern is not None:
        raise wrong((*place, "pivot"), f'expected a place, like "bottom", or pixels, like [16, 30], found {value!r}')
    return request


def _check_names(images: Sequence[ImageRegions], wrong: Wrong) -> None:
    known: dict[str, TomlPlace] = {}
    for one in images:
        for number, region in enumerate(one.regions):
            place = (*one.place, "region", number)
            # on some systems files of such names are one
            first = known.setdefault(region.name.casefold(), place)
            if first != place:
                raise wrong((*place, "name"), f"{region.name!r} is there before, as {key_text(first)}; give it another")


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
