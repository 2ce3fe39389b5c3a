"""A folder of frame files and the manifest that goes with them: a page for each frame."""

from __future__ import annotations

import glob
import os
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import replace
from functools import partial, reduce
from operator import or_
from pathlib import Path
from typing import Any

from kivel.core.contents import CONTENTS
from kivel.core.errors import KivelError
from kivel.core.looping.signature import Signature, Thumbnail, signatures, thumbnail
from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import Compress, Fade, Indexed
from kivel.core.pixels.indexed import StoredPalette
from kivel.core.pixels.pixels import Pixels, Rect, is_opaque, size_of
from kivel.core.prepare.actions import Frame
from kivel.core.wording import counted, unique_names
from kivel.files.images import FrameSource
from kivel.files.manifest.model import CutFrom, FramePlace, Made, Manifest, MapFile, Page, PageAlpha, SlicedFrom
from kivel.files.manifest.names import COLOR, SUFFIX
from kivel.files.manifest.parsing import read_manifest
from kivel.files.manifest.text import manifest_text
from kivel.files.output_set import OutputSet, Written
from kivel.files.page_store import StoredMap, encoded_page, map_file, page_files, page_name
from kivel.files.png.raster import Channels
from kivel.files.safety import OutputError, shown
from kivel.files.threads import in_order
from kivel.making.cutting.region_cut import RegionsText, add_regions
from kivel.making.options.groups.output_options import FrameOutputOptions
from kivel.making.playback.manifests import made_by
from kivel.making.playback.rebuilt import rebuilt_at
from kivel.making.sheets.pages import stored_map
from kivel.making.work import Work
from kivel.sequences.clips import ClipSet, only_clip_called
from kivel.sequences.reconciling.same_frames import Seen
from kivel.sequences.sequence import FrameSequence

__all__ = [
    "FrameFolder",
    "NewFrame",
    "NewFrames",
    "companions_of",
    "frame_file_name",
    "require_elsewhere",
    "signed",
    "unchanged",
    "write_frames",
]

_LEAST_DIGITS = 4


class NewFrame(NamedTuple):
    """A frame to be written: its name, the file it comes from, how to get it, and its companions of other maps.

    `palette` is kept where the pixels have no other colours.
    """

    name: str
    source: str
    load: Callable[[], Frame]
    maps: Sequence[tuple[StoredMap, Callable[[], Pixels]]] = ()
    extra: Mapping[str, Any] | None = None
    cut: CutFrom | None = None
    file: str = ""
    palette: StoredPalette | None = None


class NewFrames(NamedTuple):
    """Frames to be written, with all that is known of them together.

    `stem` is what those were called that they are made of, and `sources` are the files of these, none of which may be
    overwritten. `kind` is what their values mean, `sliced_from` the sheet that they come from; `has_clips` says that
    they had clips of their own, which keep their names.
    """

    stem: str
    frames: Sequence[NewFrame]
    clips: ClipSet
    sources: Collection[Path] = ()
    premultiplied: bool = False
    kind: str = "color"
    extra: Mapping[str, Any] | None = None
    sliced_from: SlicedFrom | None = None
    has_clips: bool = False
    faded: tuple[Fade, ...] = ()

    @staticmethod
    def made_of(sequence: FrameSequence, frames: Sequence[NewFrame], clips: ClipSet, *, kind: str) -> NewFrames:
        """Frames that are made of those of a sequence, with what is known of that."""
        return NewFrames(
            stem=sequence.stem,
            frames=frames,
            clips=clips,
            sources=sequence.files(),
            premultiplied=sequence.premultiplied,
            kind=kind,
            extra=sequence.extra,
            has_clips=bool(sequence.clips),
            faded=sequence.faded,
        )

    def called(self, stem: str) -> NewFrames:
        """The same by another name, which a clip that was called after them takes too."""
        stem = stem or self.stem
        clips = self.clips if self.has_clips else _called_after(self.clips, self.stem, stem)
        return self._replace(stem=stem, clips=clips)

    def with_unique_names(self) -> NewFrames:
        names = unique_names([frame.name for frame in self.frames])
        frames = [frame._replace(name=name) for frame, name in zip(self.frames, names, strict=True)]
        return self._replace(frames=frames)


def unchanged(sequence: FrameSequence) -> list[NewFrame]:
    """The frames of a sequence with their maps, to be written as they are."""
    return [
        NewFrame(
            name=frame.name,
            source=frame.source,
            load=partial(_as_it_is, frame),
            maps=companions_of(sequence, index),
            extra=frame.extra,
            palette=frame.palette,
        )
        for index, frame in enumerate(sequence.frames)
    ]


def companions_of(sequence: FrameSequence, index: int) -> list[tuple[StoredMap, Callable[[], Pixels]]]:
    """Return what a frame's companion maps are, and how to get their pixels, as they are."""
    return [
        (stored_map(one, [index])._replace(palette=one.palette_of(index)), partial(one.load, index))
        for one in sequence.maps
    ]


def _as_it_is(frame: FrameSource) -> Frame:
    return Frame(frame.load(), frame.pivot)


def signed(frames: Sequence[NewFrame]) -> tuple[list[NewFrame], Callable[[], list[Signature]]]:
    """The same frames, and what gives their signatures once they are written."""
    found: dict[int, Thumbnail] = {}

    def load(index: int, frame: NewFrame) -> Frame:
        made = frame.load()
        found[index] = thumbnail(made.image)
        return made

    watched = [frame._replace(load=partial(load, index, frame)) for index, frame in enumerate(frames)]
    return watched, lambda: signatures([found[index] for index in sorted(found)])


class FrameFolder(NamedTuple):
    """Frames that were written: files with what became of each, the manifest; `images` by name if they were not."""

    files: tuple[Written, ...]
    manifest: Manifest
    images: dict[str, Pixels]


class _Stored(NamedTuple):
    """How a map of a frame is stored: the channels that its pixels need, and whether it has a palette instead."""

    channels: Channels
    indexed: bool


class _Encoded(NamedTuple):
    """A frame whose pixels are gone: its place in the manifest, and its files with their bytes.

    `forms` say, by map, how its pixels are stored.
    """

    place: FramePlace
    page: Page
    files: list[tuple[str, Sequence[bytes]]]
    images: dict[str, Pixels]
    forms: dict[str, _Stored]


class _Naming(NamedTuple):
    """How the files of frames are called, and what becomes of their pixels."""

    new: NewFrames
    compress: Compress
    indexed: Indexed
    in_memory: bool
    channels: Mapping[str, Channels] = {}

    def encoded(self, item: tuple[int, NewFrame]) -> _Encoded:
        index, frame = item
        image, pivot = frame.load()
        straight: PageAlpha = "premultiplied" if self.new.premultiplied else "straight"
        maps: dict[str, MapFile] = {}
        files: list[tuple[str, Sequence[bytes]]] = []
        images: dict[str, Pixels] = {}
        forms: dict[str, _Stored] = {}
        color = StoredMap(COLOR, CONTENTS[self.new.kind], palette=frame.palette)
        loads: list[tuple[StoredMap, Callable[[], Pixels]]] = [(color, lambda: image), *frame.maps]
        for stored, load_map in loads:
            pixels = load_map()
            if self.in_memory:
                name = self._name(index, frame, stored, ".exr" if pixels.dtype.kind == "f" else ".png")
                images[name] = pixels
            else:
                encoded = encoded_page(
                    pixels, compress=self.compress, indexed=self.indexed, palette=stored.palette,
                    channels=self.channels.get(stored.name),
                )  # fmt: skip
                forms[stored.name] = _Stored(encoded.channels, encoded.indexed)
                name, pixels = self._name(index, frame, stored, encoded.suffix), encoded.image
                files.append((name, list(encoded.pieces)))
            maps[stored.name] = map_file(name, stored, pixels, None)
        size = size_of(image)
        place = FramePlace(
            name=frame.name,
            source=frame.source,
            page=index,
            rect=Rect(0, 0, *size),
            turn=0,
            canvas=size,
            offset=(0, 0),
            pivot=pivot,
            cut=frame.cut,
            extra=dict(frame.extra or {}),
        )
        return _Encoded(place, Page(size, maps, "opaque" if is_opaque(image) else straight), files, images, forms)

    def _name(self, index: int, frame: NewFrame, stored: StoredMap, suffix: str) -> str:
        if frame.file:
            return page_name(frame.file, 0, 1, stored.name) + suffix
        return frame_file_name(self.new.stem, index, len(self.new.frames), suffix, map=stored.name)


def frame_file_name(stem: str, index: int, count: int, suffix: str = ".png", *, map: str = COLOR) -> str:
    """`moth_0000.png`: at least four digits, more when there are more frames; `moth_0000.normal.png` for a map."""
    digits = max(_LEAST_DIGITS, len(str(count - 1)))
    return page_name(f"{stem}_{index:0{digits}d}", 0, 1, map) + suffix


def write_frames(
    options: FrameOutputOptions,
    work: Work,
    new: NewFrames,
    *,
    command: str,
    beside: bool = False,
    keeps_stem: bool = False,
    saves: RegionsText | None = None,
) -> FrameFolder:
    """Write frames and their manifest into the folder `out`, or keep them in memory where there is none.

    Their files are called after the folder unless they keep their stem, and so is a clip that was called after them,
    unless they had clips of their own.

    They may lie in the folder of the files that they are made of only where they may lie `beside` them. `saves` is a
    regions file that is written with them.

    Raises
    ------
    KivelError
        What the files that are there, the frames or the disk do not allow; nothing is written then.
    """
    folder = Path(options.out or ".")
    if options.out and not keeps_stem:
        new = new.called(Path(os.path.abspath(folder)).name)
    if options.name is not None:
        new = new._replace(clips=only_clip_called(new.clips, options.name))
        options.require_named(new.clips.clips)
    manifest_path = folder / f"{new.stem}{SUFFIX}"
    new = new.with_unique_names()
    rebuilt = rebuilt_at(options, work, manifest_path if options.out else None, command)
    if not beside:
        require_elsewhere(options.out, new.sources)
    with options.output_set(work) as out:
        rewritten = {options.out, str(saves.path) if saves else None}
        out.reads([*new.sources, *(Path(path) for path in options.paths() if path not in rewritten)])
        if options.out:
            # what can never be written is refused before a frame is made
            out.check(folder / "frame")
        done, images, files = _put_frames(options, work, new, out, folder)
        # what they were made of says which frames they are: their own names only count them
        seen = [Seen(_made_of(frame.place), frame.page.size, frame.page.maps[COLOR].digest) for frame in done]
        names = [frame.place.name for frame in done]
        new = new._replace(clips=rebuilt.clips(new.clips, seen, names=names, called=_made_of))
        manifest = rebuilt.manifest(_manifest_of(new, done, made_by(command, options, manifest_path)))
        if options.out:
            removed = _made_before(manifest_path, command, files)
            for path in removed:
                out.remove(path)
            work.note(*_older_frames(folder, new.stem, [*files, *removed]))
        add_regions(out, saves)
        if options.out:
            out.add(manifest_path, [manifest_text(manifest).encode()])
    return FrameFolder(tuple(out.written), manifest, images)


def _made_of(frame: FramePlace) -> str:
    """The place on a sheet that a frame was cut from, or the file that it was made of."""
    return str((frame.cut.page, *frame.cut.rect)) if frame.cut else frame.source


def _put_frames(
    options: FrameOutputOptions, work: Work, new: NewFrames, out: OutputSet, folder: Path
) -> tuple[list[_Encoded], dict[str, Pixels], list[Path]]:
    """Make each frame, and put its files away or keep its pixels: their places, what is kept by name, the files."""
    naming = _Naming(new, options.compress, options.indexed, in_memory=not options.out)
    done: list[_Encoded] = []
    images: dict[str, Pixels] = {}
    files: list[Path] = []
    with work.progress("writing frames", len(new.frames)) as advance:
        for frame in in_order(naming.encoded, enumerate(new.frames), jobs=options.threads):
            for name, pieces in frame.files:
                files.append(folder / name)
                out.add(files[-1], pieces)
            images |= frame.images
            # the bytes are on the disk, or kept: a long sequence must not hold them twice
            done.append(frame._replace(files=[], images={}))
            advance()
        _in_one_form(naming, done, options, out, folder)
    had = [frame.palette for frame in new.frames]
    kept = [frame.forms[COLOR].indexed for frame in done if COLOR in frame.forms]
    if options.indexed == "keep" and None not in had and not all(kept):
        work.note(f"the palette is not kept: other colours in {counted(kept.count(False), 'frame')} of {len(kept)}")
    return done, images, files


def _in_one_form(
    naming: _Naming, done: Sequence[_Encoded], options: FrameOutputOptions, out: OutputSet, folder: Path
) -> None:
    """Write those frames again that are stored with fewer channels than others of the sequence, or with a palette."""
    naming = naming._replace(channels=_common_channels([frame.forms for frame in done]))
    narrow = [
        (number, naming.new.frames[number])
        for number, frame in enumerate(done)
        if any(frame.forms.get(name) not in (None, (channels, False)) for name, channels in naming.channels.items())
    ]
    for frame in in_order(naming.encoded, narrow, jobs=options.threads):
        for name, pieces in frame.files:
            out.rewrite(folder / name, pieces)


def _common_channels(forms: Sequence[Mapping[str, _Stored]]) -> dict[str, Channels]:
    """Return what all frames of a map need together, of the maps whose frames are not all stored alike."""
    common = {}
    for name in dict.fromkeys(name for each in forms for name in each):
        stored = [each[name] for each in forms if name in each]
        if len(set(stored)) > 1 and not all(each.indexed for each in stored):
            common[name] = reduce(or_, (each.channels for each in stored))
    return common


def _manifest_of(new: NewFrames, done: Sequence[_Encoded], made: Made | None) -> Manifest:
    return Manifest(
        pages=tuple(frame.page for frame in done),
        frames=tuple(frame.place for frame in done),
        clips=new.clips.clips,
        groups=new.clips.groups,
        sliced_from=new.sliced_from,
        made=made,
        faded=new.faded or None,
        extra=dict(new.extra or {}),
    )


def _called_after(clips: ClipSet, old: str, new: str) -> ClipSet:
    """The clips, the one that has the old stem's name by the new one."""
    renamed = tuple(replace(clip, name=new) if clip.name == old else clip for clip in clips.clips)
    return clips._replace(clips=renamed)


def require_elsewhere(out: str | None, sources: Collection[Path]) -> None:
    """Refuse to write frames into the folder that they come from, where they would be taken for their own sources.

    Raises
    ------
    OutputError
        If `out` is the folder of one of the files.
    """
    folder = Path(out) if out else None
    if folder is None or not folder.is_dir():
        return
    if any(path.is_file() and path.parent.samefile(folder) for path in sources):
        raise OutputError("these frames come from there; write the result into another folder", where=shown(folder))


def _made_before(manifest: Path, command: str, files: Sequence[Path]) -> list[Path]:
    """The files that an earlier, longer run of the same command wrote, by its manifest, and that are not made now."""
    if not manifest.is_file():
        return []

    try:
        before = read_manifest(manifest)
    except KivelError:
        return []
    if before.made is None or before.made.command != command:
        return []
    paths = dict.fromkeys(manifest.parent / file.file for file in page_files(before))
    return [path for path in paths if path not in files and path.parent == manifest.parent]


def _older_frames(folder: Path, stem: str, files: Sequence[Path]) -> list[str]:
    """Frames of an earlier run that this one does not write again, and that would be taken for its own."""
    found = [path for suffix in (".png", ".exr") for path in folder.glob(f"{glob.escape(stem)}_[0-9]*{suffix}")]
    older = sorted(set(found) - set(files))
    return [f"{folder}: {len(older)} older frames are left over, from {older[0].name} on; remove them"] if older else []
