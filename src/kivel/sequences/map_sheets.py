"""Sheets of companion maps, laid out as the colour's sheet is."""

from __future__ import annotations

import os
from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from pathlib import Path, PurePath

from kivel.core.contents import content_of
from kivel.core.errors import option
from kivel.files.images import IMAGE_SUFFIXES
from kivel.files.manifest.model import Manifest, MapFile
from kivel.files.safety import shown
from kivel.sequences.map_frames import MapError
from kivel.sequences.pairing import MapRequest

__all__ = ["map_sheets", "with_map"]


def map_sheets(request: MapRequest, sheets: Sequence[Path]) -> list[Path]:
    """The image of a map for each page of the colour's.

    Raises
    ------
    MapError
        If there are more or fewer, none beside a page, or what is given is no image.
    """
    if request.suffix is not None:
        found = [sheet.with_name(sheet.stem + request.suffix + sheet.suffix) for sheet in sheets]
        missing = [path for path in found if not path.is_file()]
        if missing:
            raise MapError(f"there is no such file for map {request.name}", where=shown(missing[0]))
        return found
    if not request.sources:
        given = f"{option('map', f'{request.name}=SHEET')} or {option('map-suffix')}"
        raise MapError(f"map {request.name}: give its sheet with {given}")
    found = [Path(source) for source in request.sources]
    if len(found) != len(sheets):
        pages = "one image" if len(sheets) == 1 else f"{len(sheets)} images, one for each page"
        raise MapError(f"map {request.name}: expected {pages}, found {len(found)}")
    for path in found:
        if PurePath(path).suffix.lower() not in IMAGE_SUFFIXES:
            raise MapError(f"map {request.name}: expected an image with the layout of the sheet", where=shown(path))
    return found


def with_map(manifest: Manifest, path: Path, request: MapRequest, files: Sequence[Path]) -> Manifest:
    """A manifest at `path` whose pages have the images as a map, too."""
    content = request.content or content_of(request.name)
    scale = Fraction(1, request.parts) if request.parts and request.parts > 1 else None
    pages = []
    for page, file in zip(manifest.pages, files, strict=True):
        # no digest: nobody has said what its pixels are
        one = MapFile(os.path.relpath(file, path.parent), "", content.name, scale)
        pages.append(replace(page, maps={**page.maps, request.name: one}))
    return replace(manifest, pages=tuple(pages))
