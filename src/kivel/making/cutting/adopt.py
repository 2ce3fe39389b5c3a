"""Manifests of sheets as they are."""

from __future__ import annotations

import os
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from kivel.core.contents import content_of
from kivel.core.digest import pixel_digest
from kivel.core.errors import KivelError, UsageError, option
from kivel.core.pixels.pixels import Size, is_opaque, size_of
from kivel.core.wording import unique_names
from kivel.files.images import open_image
from kivel.files.manifest.model import FramePlace, Manifest, MapFile, Page
from kivel.files.manifest.names import COLOR, manifest_beside, manifest_in
from kivel.files.manifest.parsing import read_manifest
from kivel.files.manifest.text import manifest_text
from kivel.files.safety import shown
from kivel.making.cutting.adopted_folder import adopted_folder
from kivel.making.cutting.handled_sheets import HandledSheet, HandledSheets
from kivel.making.cutting.region_cut import add_regions, parted
from kivel.making.cutting.taken_apart import clips_of_sheet, each_sheet, taken_apart
from kivel.making.options.adopt_options import AdoptOptions
from kivel.making.playback.manifests import made_by
from kivel.making.playback.rebuilt import rebuilt_at
from kivel.making.playback.set_pivots import with_pivots
from kivel.making.sheets.layouts import all_frames, all_groups, stated_clips, with_clips_called
from kivel.sequences.clips import ClipSet, clips_for, stated_holds
from kivel.sequences.map_frames import MapError
from kivel.sequences.map_sheets import map_sheets
from kivel.sequences.named_clips import clips_of, clips_of_members, requested_clips, with_own_names
from kivel.sequences.reconciling.same_frames import Seen

if TYPE_CHECKING:
    from kivel.core.playback.clip import Clip
    from kivel.core.slicing.regions import Region
    from kivel.files.manifest.model import FramePlace, MapFile, Page
    from kivel.making.cutting.taken_apart import TakenApart
    from kivel.making.work import Work
    from kivel.sequences.sequence import FrameSequence

__all__ = ["make_adopt"]


def make_adopt(options: AdoptOptions, work: Work) -> HandledSheets:
    """Adopt pictures, and folders of frames, each by itself.

    Raises
    ------
    KivelError
        What the options, the pictures or the disk do not allow. Of a picture that is at fault nothing is written.
    """
    targets = [Path(options.out)] if options.out else [_beside(Path(source)) for source in options.sources]
    for target in targets:
        _require_new(options, target)
    if options.out:
        return HandledSheets((_together(options, work, Path(options.out)),), (), tuple(work.notes))
    return each_sheet(
        options,
        work,
        lambda source, apart: _adopted(options, work, [(Path(source), apart)], manifest_beside(Path(source))),
        of_folder=lambda folder: adopted_folder(options, work, folder),
        ignore_manifest=True,
    )


def _beside(path: Path) -> Path:
    """Where the manifest of a picture, or of a folder, goes."""
    if path.suffix == ".json":
        raise UsageError(f"{path}: expected a picture; its manifest is written beside it")
    return manifest_in(path) if path.is_dir() else manifest_beside(path)


def _require_new(options: AdoptOptions, target: Path) -> None:
    """Raise if there is a manifest by that name which was not made by adopting, and which is not to be replaced."""
    if options.force or not target.exists():
        return
    made = read_manifest(target).made
    if made is None or made.command != "adopt":
        raise KivelError(
            f"already exists and was not made by kivel adopt; kivel retime changes how it plays, "
            f"{option('force', True)} replaces it",
            where=shown(target),
        )


def _together(options: AdoptOptions, work: Work, target: Path) -> HandledSheet:
    """All pictures in one manifest, a page each."""
    paths = [Path(source) for source in options.sources]
    folder = next((path for path in paths if path.is_dir()), None)
    if folder:
        raise UsageError(f"{shown(folder)} is a folder, and {option('out')} joins pictures; adopt it by itself")
    for path in paths:
        _beside(path)

    def unseen(_image: object, _found: object) -> None:
        """Nothing is drawn of several."""

    parts = [(path, taken_apart(options, work, path, on_found=unseen, ignore_manifest=True)) for path in paths]
    return _adopted(options, work, parts, target)


def _adopted(options: AdoptOptions, work: Work, parts: Sequence[tuple[Path, TakenApart]], target: Path) -> HandledSheet:
    """The manifest of pictures that were taken apart, each a page of it."""
    parts = [(path, _named(options, path, apart)) for path, apart in parts]
    sequences = with_pivots([apart.sequence for _, apart in parts], options.pivot, jobs=options.threads)
    sequences = with_clips_called(options, sequences)
    work.hear(*sequences)
    clips = stated_clips(options, work, _clips(options, parts, sequences))
    clips = clips._replace(groups=all_groups(clips, options))
    rebuilt = rebuilt_at(options, work, target, "adopt")
    names = [frame.name for frame in all_frames(sequences)]
    frames = [
        replace(place, page=number)
        for number, ((_, apart), sequence) in enumerate(zip(parts, sequences, strict=True))
        for place in _places(apart._replace(sequence=sequence))
    ]
    frames = [replace(frame, name=name) for frame, name in zip(frames, names, strict=True)]
    seen = [Seen(_place(frame), Size(*frame.canvas), frame.digest or "") for frame in frames]
    clips = rebuilt.clips(clips, seen, names=names, called=_place)
    first = parts[0][1]
    manifest = Manifest(
        pages=tuple(_page(options, path, apart, target) for path, apart in parts),
        frames=tuple(frames),
        clips=clips.clips,
        groups=clips.groups,
        grid=first.sliced_from.grid if first.sliced_from and len(parts) == 1 else None,
        made=made_by("adopt", options, target),
        extra=dict(first.sequence.extra or {}),
    )
    manifest = rebuilt.manifest(manifest)
    with options.output_set(work) as out:
        rewritten = {str(first.saves.path) if first.saves else None, options.out}
        read = (file for sequence in sequences for file in sequence.files())
        out.reads([*read, *(Path(name) for name in options.paths() if name not in rewritten)])
        add_regions(out, first.saves)
        out.add(target, [manifest_text(manifest).encode()])
    files, saved = parted(out.written, first.saves)
    return HandledSheet(", ".join(str(path) for path, _ in parts), files, manifest, first.found, {}, saved)


def _named(options: AdoptOptions, path: Path, apart: TakenApart) -> TakenApart:
    """The frames by the names that the pattern gives them.

    Raises
    ------
    UsageError
        If the picture is cut like a packed atlas, or the pattern names what it does not have.
    """
    if apart.sliced_from is None:
        raise UsageError(
            f"{path}: {option('like')} a packed atlas cannot be used for a sheet; give the manifest of a sheet"
        )
    if options.names is None:
        return apart
    if not apart.places and any(f"{{{field}" in options.names for field in ("row", "column")):
        raise UsageError(f"{option('names', options.names)}: {path} has no rows and columns; use {{number}}")
    places = apart.places or [(0, number) for number in range(len(apart.sequence.frames))]
    rows = sorted({row for row, _ in places})
    if "{clip" in options.names and len(options.row_clips) != len(rows):
        clips = option("row-clips", "A,B,C")
        raise UsageError(f"{option('names', options.names)} takes {{clip}} from {clips}, a name for each row")
    clip_of = dict(zip(rows, options.row_clips, strict=False))
    names = [
        options.names.format(row=row, column=column, number=number, name=path.stem, clip=clip_of.get(row))
        for number, (row, column) in enumerate(places)
    ]
    if len(set(names)) < len(names):
        twice = next(name for name in names if names.count(name) > 1)
        raise UsageError(
            f"{option('names', options.names)} calls {names.count(twice)} frames {twice!r}; add {{number}}"
        )
    named = zip(apart.sequence.frames, unique_names(names), strict=True)
    frames = tuple(frame._replace(name=name) for frame, name in named)
    return apart._replace(sequence=apart.sequence._replace(frames=frames))


def _clips(
    options: AdoptOptions, parts: Sequence[tuple[Path, TakenApart]], sequences: Sequence[FrameSequence]
) -> ClipSet:
    """The clips of rows, or of regions, where there are such; those that are stated; else one for each picture."""
    requests = options.clip_requests()
    if options.row_clips:
        (path, apart), (sequence,) = parts[0], sequences
        rows = clips_of_sheet(options, str(path), apart._replace(sequence=sequence)).clips
    elif any(region.clip for _, apart in parts for region in apart.regions):
        rows = _region_clips(options, [apart.regions for _, apart in parts], sequences)
    else:
        return clips_of(sequences, options.timing, requests)
    return ClipSet(requested_clips(sequences, options.timing, requests, rows=rows))


def _region_clips(
    options: AdoptOptions, regions: Sequence[Sequence[Region]], sequences: Sequence[FrameSequence]
) -> tuple[Clip, ...]:
    """The clips that regions name, over all pictures that have regions of it; one for each picture that names none."""
    holds = [hold for sequence in sequences for hold in stated_holds(sequence)]
    members: dict[str, list[int]] = {}
    plain: list[Clip] = []
    first = 0
    for sequence, own in zip(sequences, regions, strict=True):
        for number, region in enumerate(own):
            if region.clip:
                members.setdefault(region.clip, []).append(first + number)
        if not any(region.clip for region in own):
            counted_on = {frame: first + frame for frame in range(len(sequence.frames))}
            plain += [clip.renumbered(counted_on) for clip in clips_for(sequence, options.timing)]
        first += len(sequence.frames)
    return with_own_names([*clips_of_members(members, holds, options.timing), *plain], ())


def _places(apart: TakenApart) -> tuple[FramePlace, ...]:
    return tuple(
        FramePlace(
            name=frame.name,
            source=frame.source,
            page=cut.page,
            rect=cut.rect,
            turn=0,
            canvas=frame.size,
            offset=cut.offset,
            pivot=frame.pivot,
            digest=pixel_digest(frame.load()),
            extra=dict(frame.extra or {}),
        )
        for frame, cut in zip(apart.sequence.frames, apart.cuts, strict=True)
    )


def _place(frame: FramePlace) -> str:
    """Where on which page a frame lies: that is what it is called by, for its name only counts cells."""
    return str((frame.page, *frame.rect))


def _page(options: AdoptOptions, path: Path, apart: TakenApart, target: Path) -> Page:
    """The picture and its companion maps, as they are."""
    image = open_image(path, max_pixels=options.pixel_limit)[0].load()
    key = apart.sliced_from.key if apart.sliced_from else None
    more: dict[str, Any] = {"key": key} if key else {}
    maps: dict[str, MapFile] = {COLOR: _map_file(target, path, "color", image, **more)}
    for request in options.map_requests():
        (file,) = map_sheets(request, [path])
        pixels = open_image(file, max_pixels=options.pixel_limit)[0].load()
        if size_of(pixels) != size_of(image):
            raise MapError(f"map {request.name}: {size_of(pixels)} px, the sheet has {size_of(image)}; render it again")
        content = request.content or content_of(request.name)
        maps[request.name] = _map_file(target, file, content.name, pixels)
    return Page(size_of(image), maps, "opaque" if is_opaque(image) and key is None else "straight")


def _map_file(target: Path, file: Path, kind: Any, pixels: Any, **more: Any) -> MapFile:
    name = Path(os.path.relpath(file, target.parent)).as_posix()
    if name.startswith("../"):
        raise MapError(f"it must be in the folder of its manifest, {target.name}; move it there", where=shown(file))
    return MapFile(name, pixel_digest(pixels), kind, **more)
