"""Describes what became of pictures that were taken apart: frames written, a manifest, or what each may be."""

from __future__ import annotations

from typing import TYPE_CHECKING

from kivel.core.errors import UsageError
from kivel.core.named_tuples import NamedTuple

if TYPE_CHECKING:
    from kivel.core.pixels.pixels import Pixels
    from kivel.files.manifest.model import Manifest
    from kivel.files.output_set import Written
    from kivel.making.cutting.dividing import FoundWay

__all__ = ["HandledSheet", "HandledSheets"]


class HandledSheet(NamedTuple):
    """One picture: its files with what became of each, and the manifest.

    `found` is how it may divide, the likeliest first, where that was looked for; one that was only looked at, and is
    not sure, has no manifest. `images` are its frames by name where none were written, `regions` is the file of those.
    """

    source: str
    files: tuple[Written, ...]
    manifest: Manifest | None
    found: tuple[FoundWay, ...]
    images: dict[str, Pixels]
    regions: tuple[Written, ...] = ()


class HandledSheets(NamedTuple):
    """The pictures in the order given, and the drawing of how one may divide."""

    sheets: tuple[HandledSheet, ...]
    looks: tuple[Written, ...]
    notes: tuple[str, ...]

    @property
    def files(self) -> tuple[Written, ...]:
        """All that was written."""
        return tuple(file for sheet in self.sheets for file in (*sheet.files, *sheet.regions))

    @property
    def manifest(self) -> Manifest:
        """That of the first picture."""
        manifest = self.sheets[0].manifest
        if manifest is None:
            raise UsageError("on its own, its grid is not clear")
        return manifest

    @property
    def images(self) -> dict[str, Pixels]:
        """The frames of all by name, where nothing was written."""
        return {name: image for sheet in self.sheets for name, image in sheet.images.items()}
