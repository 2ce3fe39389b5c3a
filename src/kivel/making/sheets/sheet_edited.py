"""A sheet edited where it is: frames replaced, removed and inserted, without taking it apart."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from kivel.core.errors import UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.core.numbers import whole_number
from kivel.core.pixels.pixels import Size
from kivel.core.playback.reconciling import FramesNow, reconciled
from kivel.core.suggestions import did_you_mean
from kivel.core.wording import counted_from_0, unique_names
from kivel.files.images import FrameSource, open_image
from kivel.files.manifest.model import CutFrom, Manifest, SlicedFrom
from kivel.files.manifest.names import COLOR
from kivel.files.manifest.parsing import edited_since_written, read_manifest
from kivel.files.manifest.text import manifest_text
from kivel.files.page_store import PageFiles, page_files
from kivel.files.safety import shown
from kivel.making.options.sheet_options import SheetOptions
from kivel.making.playback.manifests import require_pages_inside
from kivel.making.sheets.layouts import regathered
from kivel.making.sheets.sheet_cells import SheetMade, frame_place
from kivel.making.sheets.sheet_layout import as_before, painted, planned
from kivel.making.work import Work
from kivel.sequences.map_frames import MapError, MapFrames
from kivel.sequences.placed import sequence_of_manifest
from kivel.sequences.reconciling.frame_edits import edit_notes, frame_edits
from kivel.sequences.reconciling.same_frames import Seen
from kivel.sequences.sequence import CutSheet, FrameSequence

__all__ = ["sheet_edited"]


class _Edit(NamedTuple):
    """A file for a frame, by its number, or for one of its maps; None: the frame is removed."""

    frame: int
    map: str
    file: str


def sheet_edited(options: SheetOptions, work: Work) -> SheetMade:
    """Edit the sheet of a manifest, in its place or under another name.

    Raises
    ------
    KivelError
        If it is no sheet, a frame that is named is not there, or the disk does not allow it; nothing is written then.
    """
    path = _only_manifest(options)
    with options.output_set(work) as out:
        out.changes(path)
        edited, manifest = edited_since_written(path), read_manifest(path)
        _require_sheet(options, manifest, path)
        if not options.out:
            require_pages_inside(manifest, path)
        in_place = path.parent / manifest.pages[0].maps[COLOR].file
        target = Path(options.out) if options.out else in_place
        work.hear(sequence := _edited(options, work, manifest, path))
        own = {path, *(path.parent / file.file for file in page_files(manifest))}
        out.reads(sequence.files() - (own if target.resolve() == in_place.resolve() else set()))
        out.check(target)
        found = regathered([sequence])
        layout = as_before(options, work, found) or planned(options, work, found)
        store = PageFiles(
            out, target, len(layout.pages), compress=options.compress, jobs=options.threads,
            watched=work.watching("writing the sheet"), indexed=options.indexed,
        )  # fmt: skip
        pages = painted(options, work, store, layout, premultiplied=sequence.premultiplied)
        old = {frame.name: frame for frame in manifest.frames}
        frames = [frame_place(*pair) for pair in zip(layout.frames, layout.placements, strict=True)]
        new = replace(
            manifest,
            pages=pages,
            grid=layout.grid,
            frames=tuple(replace(one, set=old[one.name].set if one.name in old else None) for one in frames),
            clips=sequence.clips,
            groups=sequence.groups,
            made=None,  # no single command makes all of it any more
        )
        work.note(*store.finish([file.file for file in page_files(new)]))
        beside = path if target == in_place else target.with_name(f"{target.stem}.kivel.json")
        out.add(beside, [manifest_text(new, edited=edited and beside == path).encode()])
    return SheetMade(tuple(out.written), new, 0, tuple(work.notes), {}, None, tuple(work.edits))


def _only_manifest(options: SheetOptions) -> Path:
    if len(options.sources) != 1 or not options.sources[0].endswith(".json"):
        given = next(name for name in ("replace", "remove", "insert") if options.given(name))
        raise UsageError(f"{option(given)} edits a sheet: give only its manifest, NAME.kivel.json")
    return Path(options.sources[0])


def _require_sheet(options: SheetOptions, manifest: Manifest, path: Path) -> None:
    adopted = manifest.made is not None and manifest.made.command == "adopt"
    if not manifest.grid and not adopted:
        raise UsageError("is not a sheet with a grid; slice it and make a new sheet from its frames", where=shown(path))
    if len(manifest.pages) > 1 and adopted:
        raise UsageError(
            f"describes {len(manifest.pages)} pictures; edit one, and describe them again", where=shown(path)
        )
    if len(manifest.pages) > 1 and (options.remove or options.insert):
        raise UsageError(
            f"is on {len(manifest.pages)} pages, where frames can only be replaced; slice it and make a new sheet",
            where=shown(path),
        )


def _edited(options: SheetOptions, work: Work, manifest: Manifest, path: Path) -> FrameSequence:
    """The frames of the sheet with the edits, and the clips reconciled with them."""
    sequence = sequence_of_manifest(manifest, path, options.source_settings(work, keep_float=True, with_maps=True))
    replaced = [_edit(manifest, "replace", name, file) for name, file in options.replace]
    inserted = [_edit(manifest, "insert", name, file) for name, file in options.insert]
    removed = {_number(manifest, "remove", name) for name in options.remove}
    frames, maps = list(sequence.frames), [list(one.frames) for one in sequence.maps]
    names = [one.name for one in sequence.maps]
    for edit in replaced:
        image = _opened(options, edit.file)._replace(name=frames[edit.frame].name, pivot=frames[edit.frame].pivot)
        if edit.map == COLOR:
            frames[edit.frame] = image
        else:
            maps[_map_place(names, edit, "replace")][edit.frame] = image
    order = _order(len(frames), removed, inserted)
    was = tuple(item if isinstance(item, int) else None for item in order)
    new = [frames[item] if isinstance(item, int) else _new_frame(options, item, frames) for item in order]
    called = unique_names([frame.name for frame in new])
    new = [frame._replace(name=name) for frame, name in zip(new, called, strict=True)]
    known = {(edit.frame, edit.map): edit for edit in inserted}
    new_maps = [
        _with_inserted(options, one, own, order, new, known) for one, own in zip(sequence.maps, maps, strict=True)
    ]
    now = FramesNow(tuple(frame.name for frame in manifest.frames), _in_series(new, was), was)
    found = reconciled(manifest.clips, manifest.groups, now)
    edits = frame_edits(
        [Seen(frame.name, frame.size, "was") for frame in sequence.frames],
        [Seen(f.name, f.size, "is" if n is not None and f.path != sequence.frames[n].path else "was")
         for f, n in zip(new, was, strict=True)],
        now._replace(now=tuple(called)), manifest.clips, found,
    )  # fmt: skip
    cuts = [CutFrom(frame.rect, frame.page, frame.offset) for frame in manifest.frames]
    color = manifest.pages[0].maps[COLOR]
    sliced_from = SlicedFrom(
        color.file, tuple(page.size for page in manifest.pages), manifest.grid, color.key, color.digest
    )
    return sequence._replace(
        frames=tuple(new),
        maps=tuple(new_maps),
        clips=found.clips,
        groups=found.groups,
        described_by=None,
        sheet=CutSheet(
            sliced_from, path.parent, tuple(None if n is None else cuts[n] for n in was),
            tuple(cut for n, cut in enumerate(cuts) if n not in was),
        ),
        edits=edits,
    ).noted(*edit_notes(shown(path), edits), *(text for _, text in found.warnings))  # fmt: skip


def _edit(manifest: Manifest, name: str, frame: str, file: str) -> _Edit:
    called, _, of_map = frame.partition(":")
    return _Edit(_number(manifest, name, called, end=name == "insert"), of_map or COLOR, file)


def _number(manifest: Manifest, name: str, called: str, *, end: bool = False) -> int:
    """The frame of a name, or of a number; one more than there are means the end where frames are inserted."""
    names = [frame.name for frame in manifest.frames]
    if called in names:
        return names.index(called)
    number = whole_number(called)
    if number is not None and number < len(names) + end:
        return number
    there = f"there are {counted_from_0(len(names), 'frame')}"
    raise UsageError(f"{option(name, called)}: no such frame{did_you_mean(called, names, otherwise=there)}")


def _opened(options: SheetOptions, file: str) -> FrameSource:
    images = open_image(Path(file), max_pixels=options.pixel_limit)
    if len(images) > 1:
        raise UsageError(f"{file}: {len(images)} frames, expected one")
    return images[0]


def _order(count: int, removed: set[int], inserted: Sequence[_Edit]) -> list[int | _Edit]:
    """The frames in their new order, those to be inserted before the one whose number they name."""
    order: list[int | _Edit] = []
    for number in range(count + 1):
        order += [edit for edit in inserted if edit.frame == number and edit.map == COLOR]
        order += [number] if number < count and number not in removed else []
    return order


def _new_frame(options: SheetOptions, edit: _Edit, frames: Sequence[FrameSource]) -> FrameSource:
    """A frame that is inserted, with the pivot of the one before it."""
    return _opened(options, edit.file)._replace(pivot=frames[max(0, edit.frame - 1)].pivot, duration=None)


def _in_series(frames: Sequence[FrameSource], was: Sequence[int | None]) -> tuple[str, ...]:
    """Names by which each new frame belongs to the one before it: that is where it is put."""
    names: list[str] = []
    for frame, number in zip(frames, was, strict=True):
        following = next((f.name for f, n in zip(frames, was, strict=True) if n is not None), "")
        names.append(frame.name if number is not None else f"{names[-1] if names else following}b")
    return tuple(names)


def _map_place(names: Sequence[str], edit: _Edit, name: str) -> int:
    if edit.map not in names:
        asked = option(name, f"{edit.frame}:{edit.map}={edit.file}")
        raise UsageError(f"{asked}: the sheet has no such map{did_you_mean(edit.map, names)}")
    return names.index(edit.map)


def _with_inserted(
    options: SheetOptions,
    one: MapFrames,
    own: Sequence[FrameSource | None],
    order: Sequence[int | _Edit],
    frames: Sequence[FrameSource],
    known: dict[tuple[int, str], _Edit],
) -> MapFrames:
    """A map with what is given for inserted frames; neutral where that is asked for."""
    found: list[FrameSource | None] = []
    for item in order:
        if isinstance(item, int):
            found.append(own[item])
            continue
        edit = known.get((item.frame, one.name))
        if edit is None and options.missing_map != "neutral":
            given = option("insert", f"{item.frame}:{one.name}=FILE")
            raise MapError(
                f"map {one.name}: nothing for {item.file}; pass {given} or {option('missing-map', 'neutral')}"
            )
        found.append(_opened(options, edit.file) if edit else None)
    sizes = tuple(Size(frame.size.w // one.parts, frame.size.h // one.parts) for frame in frames)
    for frame, size in zip(found, sizes, strict=True):
        if frame and frame.size != size:
            raise MapError(f"map {one.name}: {frame.path.name} has {frame.size} px, expected {size}")
    was = [item for item in order if isinstance(item, int)]
    moved = [place for place, item in enumerate(order) if not isinstance(item, int)]
    return one._replace(frames=tuple(found), sizes=sizes, motion=None if moved or len(was) < len(own) else one.motion)
