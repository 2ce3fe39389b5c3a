"""The page of a preview: what it is made of, how it is looked at to begin with, when it would be another."""

from __future__ import annotations

import contextlib
import glob
import os
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

import xxhash

from kivel.core.errors import UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.clip import Clip
from kivel.core.playback.groups import chosen_clips
from kivel.core.wording import counted
from kivel.files.manifest.names import is_manifest_name
from kivel.making.looking.shown_pictures import pictures_in, viewer_of
from kivel.making.looking.stills import contact_sheet_of, timing_chart_of
from kivel.sequences.clips import clips_for
from kivel.sequences.matching import matched
from kivel.sequences.opening import open_sources
from kivel.sequences.sequence import straightened
from kivel.views.charts import ChartsError

if TYPE_CHECKING:
    from kivel.core.pixels.pixels import Pixels
    from kivel.making.options.preview_options import PreviewOptions
    from kivel.making.work import Work
    from kivel.sequences.sequence import FrameSequence

__all__ = ["PreviewPage", "page_of", "source_stamp"]


class PreviewPage(NamedTuple):
    """The page, in words what it shows, the clip that it begins with, how many frames, and the files that it is of."""

    text: str
    described: str
    clip: Clip
    frames: int
    files: Sequence[Path]


def page_of(options: PreviewOptions, work: Work) -> PreviewPage:
    """The page as its sources are now; one that is served looks by itself whether they have changed.

    Raises
    ------
    KivelError
        What the sources do not allow.
    """
    # manifests keep their clips only if each is by itself
    alone = len(options.sources) > 1 and all(map(is_manifest_name, options.sources))
    shown = [[each] for each in options.sources] if alone else [options.sources]
    viewed = [_viewed(options, work, each) for each in (*shown, *([each] for each in options.beside))]
    sequence, clips = viewed[0]
    chosen = chosen_clips(clips, options.clip)
    clips = [*chosen, *(clip for clip in clips if clip not in chosen)]
    viewed[0] = (sequence, clips)
    contact = contact_sheet_of(options, work, sequence, clips[0]).image
    with work.progress("packing pictures", sum(pictures_in(one) for one, _ in viewed)) as advance:
        text = viewer_of(
            viewed,
            view=_first_look(options, sequence),
            contact=contact,
            timing=_timing(sequence, clips),
            max_pixels=options.pixel_limit,
            jobs=options.threads,
            advance=advance,
            reload="stamp" if options.serve else None,
        )
    work.hear(*(one for one, _ in viewed))
    count = sum(len(each) for _, each in viewed)
    frames = sum(len(one.frames) for one, _ in viewed[: len(shown)])
    described = f"plays {counted(count, 'clip')} in a browser, {counted(frames, 'frame')}"
    files = [path for one, _ in viewed for path in one.files()]
    return PreviewPage(text, described, clips[0], frames, files)


def _timing(sequence: FrameSequence, clips: Sequence[Clip]) -> Pixels | None:
    """Return the timing chart; None without Matplotlib, which the page then says in its place."""
    try:
        return timing_chart_of(sequence, clips)
    except ChartsError:
        return None


def _viewed(options: PreviewOptions, work: Work, sources: Sequence[str]) -> tuple[FrameSequence, Sequence[Clip]]:
    """Frames with all their maps, and the clips; a page shows frames of any size, if they are not to be matched."""
    sequence = straightened(open_sources(sources, options.source_settings(work, with_maps=True)))
    if sequence.described_by is None and options.odd_size != "error":
        sequence = matched(sequence, odd_size=options.odd_size, align=options.align)
    return sequence, clips_for(sequence, lambda _name: options.timing())


def _first_look(options: PreviewOptions, sequence: FrameSequence) -> dict[str, object]:
    """How the page is looked at to begin with, by the names of its own state."""
    known = ["color", "alpha", *(one.name for one in sequence.maps)]
    if options.show not in known:
        raise UsageError(f"{option('show', options.show)}: there is no such map; there are {', '.join(known)}")
    look: dict[str, object] = {"show": options.show, "smooth": options.filter == "smooth"}
    look |= dict.fromkeys(options.mark, True)
    if options.tile:
        look["tile"] = str(options.tile)
    if options.fade == "stored":
        look["fadesStored"] = True
    if options.scale:
        look["zoom"] = float(options.scale)
    if not isinstance(options.backdrop, str):
        look["backdrop"] = "#{:02x}{:02x}{:02x}".format(*options.backdrop)
    return look


def source_stamp(options: PreviewOptions) -> str:
    """A text that is another when a source, a folder of sources or a page of a manifest was changed."""
    paths = set()
    for source in (*options.sources, *options.beside):
        path = Path(source)
        found = [path] if path.exists() else [Path(name) for name in glob.glob(source.replace("#", "*"))]
        folders = [one if one.is_dir() else one.parent for one in found]
        paths |= {*found, *(Path(entry.path) for folder in folders for entry in os.scandir(folder))}
    known = []
    for path in sorted(paths):
        with contextlib.suppress(OSError):
            stat = path.stat()
            known.append(f"{path}:{stat.st_mtime_ns}:{stat.st_size}")
    return str(xxhash.xxh3_128_hexdigest("\n".join(known).encode()))
