"""A folder that Kivel wrote is its manifest: files that one beside them describes are read as it says."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from kivel.core.wording import first_few
from kivel.files.images import open_image
from kivel.files.manifest.names import COLOR, SUFFIX
from kivel.files.page_store import map_size
from kivel.files.safety import shown
from kivel.sequences.clips import ClipSet, clips_of_part
from kivel.sequences.finding import Found, known_manifests
from kivel.sequences.placed import sequence_of_manifest
from kivel.sequences.sequence import FrameSequence
from kivel.sequences.settings import SourceSettings

if TYPE_CHECKING:  # manifests are rare here, and their models slow to load
    from kivel.files.manifest.model import Manifest

__all__ = ["described"]


def described(found: Found, settings: SourceSettings) -> FrameSequence | None:
    """The frames as a manifest beside them has them: timing, pivots, maps, names, alpha; None if none does.

    Files that were repainted are still described, those of another size are not. What a manifest says of other files
    than these is left, with a note in `found`.
    """
    folder = found.paths[0].parent
    if any(path.parent != folder for path in found.paths):
        return None
    names = [path.name for path in found.paths]
    of_frames = [(path, one) for path, one in known_manifests(folder) if not one.is_layout]
    # called as the folder is, before what is left of runs by other names
    of_frames.sort(key=lambda item: item[0].name.removesuffix(SUFFIX) != folder.resolve().name)
    unfit: list[str] = []
    for path, manifest in of_frames:
        places = _places_by_file(manifest)
        if not places.keys() & set(names):
            continue
        strange = [name for name in names if name not in places]
        why = f"{first_few(strange)}: not in it" if strange else _other_size(manifest, folder, names, settings)
        if why is None:
            return _as_described(manifest, path, found, [places[name] for name in names], settings)
        unfit.append(f"{shown(path)} describes other files ({why}): its timing, pivots and maps are not used")
    found.notes += unfit
    return None


def _places_by_file(manifest: Manifest) -> dict[str, int]:
    """The number of the frame that each file is."""
    files = [page.maps[COLOR].file for page in manifest.pages]
    return {files[frame.page]: number for number, frame in enumerate(manifest.frames)}


def _other_size(manifest: Manifest, folder: Path, names: Sequence[str], settings: SourceSettings) -> str | None:
    """What is wrong with the first file that does not have the size that is stated."""
    pages = {page.maps[COLOR].file: page for page in manifest.pages}
    for name in names:
        stated = map_size(pages[name], pages[name].maps[COLOR])
        size = open_image(folder / name, max_pixels=settings.max_pixels)[0].size
        if size != stated:
            return f"{name} has {size} px, not {stated}"
    return None


def _as_described(
    manifest: Manifest, path: Path, found: Found, places: Sequence[int], settings: SourceSettings
) -> FrameSequence:
    count, cuts = len(manifest.frames), [frame.cut for frame in manifest.frames]
    is_part = list(places) != list(range(count))
    notes: tuple[str, ...] = ()
    if is_part:
        # before a page is opened: some may not be there any more
        kept = clips_of_part(ClipSet(manifest.clips, manifest.groups), count, places)
        frames_left = tuple(manifest.frames[place] for place in places)
        number = {place: new for new, place in enumerate(places)}
        pages = tuple(page.renumbered(number) for page in manifest.pages)
        manifest = replace(manifest, pages=pages, frames=frames_left, clips=kept.clips, groups=kept.groups)
        left = f"{count - len(places)} of its {count} frames are not taken"
        which = f"{shown(path)}: {left if len(places) < count else 'in another order'}"
        # of a range that was asked for nobody need be told
        notes = (*([] if settings.within else [which]), *kept.notes)
    sequence = sequence_of_manifest(manifest, path, settings)
    if is_part:
        sheet = sequence.sheet
        if sheet:
            gone = tuple(cut for place, cut in enumerate(cuts) if place not in places and cut)
            in_order = list(places) == sorted(places) and not settings.within
            sheet = sheet._replace(gone=gone) if in_order else sheet._replace(cuts=())
        sequence = sequence._replace(origin=None, sheet=sheet)
    numbers = found.numbers or [None] * len(places)
    frames = tuple(
        frame._replace(number=number, name=found.prefix + frame.name)
        for frame, number in zip(sequence.frames, numbers, strict=True)
    )
    return sequence._replace(stem=found.stem, frames=frames, gaps=tuple(found.gaps)).noted(*found.notes, *notes)
