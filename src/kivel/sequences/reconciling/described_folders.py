"""Which files of a folder are the frames that a manifest in it describes, those among them that came since."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from pathlib import Path, PurePath

from kivel.core.errors import KivelError
from kivel.core.named_tuples import NamedTuple
from kivel.core.numbering import Series, find_series, natural_order, series_name
from kivel.files.images import open_image
from kivel.files.manifest.model import Manifest
from kivel.files.manifest.names import COLOR, SUFFIX
from kivel.files.manifest.parsing import read_manifest
from kivel.files.page_store import stored_picture
from kivel.sequences.reconciling.same_frames import shares_a_name

__all__ = ["DescribedFolder", "described_folders", "known_manifests", "series_of_folder"]


class DescribedFolder(NamedTuple):
    """A manifest whose pages are a file for each frame, and where it is."""

    path: Path
    manifest: Manifest

    @property
    def files(self) -> tuple[str, ...]:
        """The file of each frame."""
        pages = [page.maps[COLOR].file for page in self.manifest.pages]
        return tuple(pages[frame.page] for frame in self.manifest.frames)

    @property
    def digests(self) -> tuple[str, ...]:
        """Return the digests of the frames before."""
        return tuple(self.manifest.pages[frame.page].maps[COLOR].digest for frame in self.manifest.frames)

    def map_tails(self) -> dict[str, str]:
        """Return what the files of companion maps have behind the frame's name: `.normal.png`, by map."""
        tails: dict[str, str] = {}
        for page in self.manifest.pages:
            stem = PurePath(page.maps[COLOR].file).stem
            tails |= {n: file.file[len(stem) :] for n, file in page.maps.items() if file.file.startswith(stem)}
        return {name: tail for name, tail in tails.items() if name != COLOR}


def known_manifests(folder: Path) -> list[tuple[Path, Manifest]]:
    """The manifests in a folder that can be read, by name."""
    paths = sorted(folder.glob(f"*{SUFFIX}"))
    return [(path, manifest) for path in paths if (manifest := _manifest_at(path))]


def _manifest_at(path: Path) -> Manifest | None:
    try:
        return read_manifest(path)
    except KivelError:
        return None  # whatever it is, it is not asked for here


def described_folders(manifests: Sequence[tuple[Path, Manifest]]) -> list[DescribedFolder]:
    """Those that describe files of frames; the one that is called as its folder is before what is left of others."""
    found = [DescribedFolder(path, manifest) for path, manifest in manifests if not manifest.is_layout]
    return sorted(found, key=lambda one: one.path.name.removesuffix(SUFFIX) != one.path.parent.resolve().name)


def series_of_folder(
    names: Sequence[str], folders: Sequence[DescribedFolder], *, max_pixels: int
) -> list[tuple[Series, DescribedFolder | None]]:
    """The series among files of one folder: what a manifest describes is one, with whatever was added to it.

    With it is what describes it. Other numbered series beside it stay what they are.
    """
    left = list(names)
    found: list[tuple[Series, DescribedFolder | None]] = []
    for folder in folders:
        known = set(folder.files)
        own = [name for name in left if name in known]
        others = {name for other in folders if other is not folder for name in other.files}
        strangers = [name for name in left if name not in known and name not in others]
        maps = _maps_of(folder, left) if strangers else set()
        came = _came(folder, own, [name for name in strangers if name not in maps], max_pixels=max_pixels)
        if not own and not came:
            continue
        found.append((_as_series([*own, *came]), folder))
        taken = {*own, *came, *maps}
        left = [name for name in left if name not in taken]
    return [*found, *((series, None) for series in find_series(left))]


def _maps_of(folder: DescribedFolder, names: Collection[str]) -> set[str]:
    """The companion maps of frames that were added or renamed."""
    tails = folder.map_tails().values()
    called = {PurePath(name).stem + tail for name in names for tail in tails}
    return called.intersection(names)


def _came(folder: DescribedFolder, own: Sequence[str], strangers: Sequence[str], *, max_pixels: int) -> list[str]:
    """The files that belong to a manifest which does not name them: renamed frames, and those that were added."""
    if not strangers:
        return []
    place = folder.path.parent
    gone = {digest for name, digest in zip(folder.files, folder.digests, strict=True) if not (place / name).is_file()}
    renamed = [name for name in strangers if gone and _digest(place / name, max_pixels) in gone]
    if not own and not renamed:
        return []
    series = {series_name(PurePath(name).stem) for name in (*folder.files, *renamed)}
    rest = [name for name in strangers if name not in renamed]
    alike = [name for name in rest if series_name(PurePath(name).stem) in series]
    added: list[str] = []
    for one in find_series(name for name in rest if name not in alike):
        if not _is_another_series(one, folder):
            added += one.names
    return [*renamed, *(name for name in (*alike, *added) if len(open_image(place / name, max_pixels=max_pixels)) == 1)]


def _digest(path: Path, max_pixels: int) -> str:
    try:
        return stored_picture(path, max_pixels=max_pixels).digest()
    except KivelError:
        return ""  # whoever opens it will say what is wrong with it


def _is_another_series(series: Series, folder: DescribedFolder) -> bool:
    """Whether numbered files are a sequence by themselves, and not a few that were put between the frames."""
    if len(series.names) < 2 or not series.numbers:
        return False
    between = all(any(shares_a_name(name, own) for own in folder.files) for name in series.names)
    return not (between and 2 * len(series.names) <= len(folder.files))


def _as_series(names: Sequence[str]) -> Series:
    """Files as one series, numbered where they are alike but for that."""
    found = find_series(names)
    if len(found) == 1 and len(found[0].names) == len(names):
        return found[0]
    return Series(None, tuple(natural_order(names)))
