"""A folder that Kivel wrote is its manifest: the files are read as it says, whatever was done to them since."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from kivel.core.contents import CONTENTS, Content, empty
from kivel.core.numbering import natural_order
from kivel.core.pixels.pixels import Size
from kivel.core.wording import first_few
from kivel.files.images import FrameSource
from kivel.files.safety import shown
from kivel.sequences.clips import ClipSet, clips_of_part
from kivel.sequences.finding import Found
from kivel.sequences.map_frames import MapFrames
from kivel.sequences.placed import sequence_of_manifest
from kivel.sequences.reconciling.described_folders import DescribedFolder, described_folders, known_manifests
from kivel.sequences.reconciling.folder_now import FolderNow, folder_now
from kivel.sequences.reconciling.frame_edits import edit_notes
from kivel.sequences.sequence import FrameSequence
from kivel.sequences.settings import SourceSettings

if TYPE_CHECKING:
    from collections.abc import Sequence

__all__ = ["described"]


def described(found: Found, settings: SourceSettings) -> FrameSequence | None:
    """The frames as a manifest beside them has them: timing, pivots, maps, names, alpha; None if none does.

    What was done to the files since it was written is reconciled with what it says of them, and told.
    """
    place = found.paths[0].parent
    if any(path.parent != place for path in found.paths):
        return None
    names = [path.name for path in found.paths]
    folders = described_folders(known_manifests(place))
    for folder in folders:
        others = {name for other in folders if other is not folder for name in other.files}.difference(folder.files)
        strange = [name for name in names if name in others]
        if not strange:
            now = folder_now(folder, names, settings, numbered=bool(found.numbers))
            if now is not None:
                return _as_described(folder, now, found, settings)
        elif set(names) & set(folder.files):
            what = f"{shown(folder.path)} describes other files ({first_few(strange)}: not in it)"
            found.notes.append(f"{what}: its timing, pivots and maps are not used")
    return None


def _as_described(folder: DescribedFolder, now: FolderNow, found: Found, settings: SourceSettings) -> FrameSequence:
    manifest, cuts = now.manifest, now.cuts
    places = _asked(now, found)
    is_part = places != list(range(len(now.files)))
    notes = [*edit_notes(shown(folder.path.parent), now.edits), *now.warnings]
    if is_part:
        # before a page is opened: those that are left out may be damaged
        kept = clips_of_part(ClipSet(manifest.clips, manifest.groups), len(now.files), places)
        number = {place: new for new, place in enumerate(places)}
        manifest = replace(
            manifest,
            pages=tuple(page.renumbered(number) for page in manifest.pages),
            frames=tuple(manifest.frames[place] for place in places),
            clips=kept.clips,
            groups=kept.groups,
        )
        # of a range that was asked for nobody need be told
        notes += [*([] if settings.within else [_left(folder.path, now, places)]), *kept.notes]
    sequence = sequence_of_manifest(manifest, folder.path, settings)
    if now.holes and not is_part:
        sequence = _with_holes(sequence, folder, now)
    if is_part or now.edits:
        sheet = sequence.sheet
        sheet = sheet and sheet._replace(cuts=() if is_part else cuts, gone=() if is_part else now.gone)
        sequence = sequence._replace(described_by=None, sheet=sheet)
    numbers = found.numbers if len(found.numbers) == len(places) else [None] * len(places)
    frames = tuple(
        frame._replace(number=number, name=found.prefix + frame.name)
        for frame, number in zip(sequence.frames, numbers, strict=True)
    )
    sequence = sequence._replace(stem=found.stem, frames=frames, gaps=tuple(found.gaps), edits=now.edits)
    return sequence.noted(*found.notes, *notes)


def _with_holes(sequence: FrameSequence, folder: DescribedFolder, now: FolderNow) -> FrameSequence:
    """The sequence where the frames in some places are transparent, their maps neutral."""
    sizes = {place: Size(*now.manifest.frames[place].canvas) for place in now.holes}

    def blank(frame: FrameSource, content: Content, size: Size, *, opaque: bool) -> FrameSource:
        dtype = frame.load().dtype
        return frame._replace(size=size, load=lambda: empty(content, (size.h, size.w), dtype, opaque=opaque))

    def of_map(one: MapFrames) -> MapFrames:
        frames, inner = list(one.frames), list(one.sizes)
        for place, size in sizes.items():
            frame = frames[place]
            inner[place] = Size(size.w // one.parts, size.h // one.parts)
            frames[place] = frame and blank(frame, one.content, inner[place], opaque=True)
        return one._replace(frames=tuple(frames), sizes=tuple(inner))

    frames = [
        blank(frame, CONTENTS[sequence.content], sizes[place], opaque=False) if place in sizes else frame
        for place, frame in enumerate(sequence.frames)
    ]
    names = first_few([frames[place].name for place in now.holes])
    told = f"{shown(folder.path.parent)}: removed, kept as empty cells: {names}"
    return sequence._replace(frames=tuple(frames), maps=tuple(map(of_map, sequence.maps))).noted(told)


def _asked(now: FolderNow, found: Found) -> list[int]:
    """The places of the files that are asked for, in the order that somebody wishes."""
    # a hole has the name of a frame that is gone, which another may have by now
    place = {name: number for number, name in enumerate(now.files) if number not in now.holes}
    names = [path.name for path in found.paths]
    is_wish = not found.numbers and names != natural_order(names)
    if is_wish or len(set(names)) < len(names):
        return [place[name] for name in names]
    return list(range(len(now.files))) if place.keys() == set(names) else sorted(place[name] for name in names)


def _left(path: Path, now: FolderNow, places: Sequence[int]) -> str:
    count = len(now.files) - len(places)
    left = f"{count} of its {len(now.files)} frames are not used" if count > 0 else "in another order"
    return f"{shown(path)}: {left}"
