"""By what a file is known to be as before: its size, times and number, and where these differ, its digest."""

from __future__ import annotations

import os
import stat
from collections.abc import Iterable, Iterator, Mapping
from glob import glob, has_magic
from pathlib import Path

from kivel.core.errors import KivelError
from kivel.core.named_tuples import NamedTuple
from kivel.files.manifest.names import is_manifest_name
from kivel.files.safety import file_text

__all__ = ["UNKNOWN", "Stamp", "Stamps", "are_untouched", "files_of", "seen_again", "stamp_of"]

_MOST_BYTES = 64 << 20
_UNSURE_NS = 50_000_000
"""A file that was written so shortly before it was looked at may be written again with the same times."""


class Stamp(NamedTuple):
    """`digest` is of all bytes; empty where there is no file.

    `changed_ns` may be set by whoever writes a file, as archives do when they are unpacked; `stated_ns`, when anything
    about it changed, by the system alone.
    """

    size: int
    changed_ns: int
    stated_ns: int
    number: int
    digest: str

    @property
    def seen(self) -> tuple[int, int, int, int]:
        """Return what is known without reading the file."""
        return (self.size, self.changed_ns, self.stated_ns, self.number)


UNKNOWN = Stamp(-1, 0, 0, 0, "")
"""The stamp of what is not a file, or may have been another."""


class Stamps:
    """Stamps of files, each looked at once; `known` are those of an earlier look, at `looked_ns`.

    Under `verify` every file is read.
    """

    def __init__(self, known: dict[str, Stamp], looked_ns: int, *, verify: bool = False) -> None:
        self._known = known
        self._surely_ns = looked_ns - _UNSURE_NS
        self._verify = verify
        self._found: dict[str, Stamp] = {}
        self.has_news = False
        """Whether some file has changed, by its times at least."""

    def of(self, path: str) -> Stamp:
        found = self._found.get(path)
        if found is None:
            found = self._found[path] = self._look(path)
        return found

    def forget(self, paths: Iterable[str]) -> None:
        """Look again: they may have been written."""
        for path in paths:
            self._found.pop(path, None)

    def learn(self, stamps: Mapping[str, Stamp]) -> None:
        """Take them from whoever has just written the files."""
        self._found |= stamps

    def _look(self, path: str) -> Stamp:
        seen = _seen(path)
        known = self._known.get(path)
        same = known is not None and known.seen == seen
        if known is not None and same and not self._verify and max(seen[1:3]) < self._surely_ns:
            return known
        self.has_news = True
        return stamp_of(path)


def stamp_of(path: str) -> Stamp:
    """Return the stamp of a file as it is now."""
    seen = _seen(path)
    return Stamp(*seen, _digest(path) if seen[0] >= 0 else "")


def are_untouched(stamps: Mapping[str, Stamp]) -> bool:
    """Whether files have the size, time and number that they had."""
    return all(_seen(path) == stamp.seen for path, stamp in stamps.items())


def seen_again(path: str, stamp: Stamp) -> Stamp:
    """Return the stamp of a file to which nothing was done that changes its bytes."""
    return Stamp(*_seen(path), stamp.digest)


def _seen(path: str) -> tuple[int, int, int, int]:
    try:
        found = os.stat(path)
    except (OSError, ValueError):
        return UNKNOWN.seen
    if not stat.S_ISREG(found.st_mode):
        return UNKNOWN.seen  # reading it might never end
    return (found.st_size, found.st_mtime_ns, found.st_ctime_ns, found.st_ino)


def _digest(path: str) -> str:
    from kivel.files.file_digest import file_digest

    return file_digest(Path(path), follow_links=True) or ""


def files_of(path: str) -> Iterator[str]:
    """Every file that a path, a folder or a pattern means for a command, and those that these name."""
    if os.path.isdir(path):
        yield from _within(path)
    elif not os.path.lexists(path) and (has_magic(path) or "#" in path):
        for name in sorted(glob(path.replace("#", "[0-9]*"))):
            yield from files_of(name) if os.path.isdir(name) else (name,)
    else:
        yield path
        if is_manifest_name(path):
            yield from _pages(path)
        elif path.endswith(".toml"):
            yield from _named_by_profile(path)


def _within(folder: str) -> Iterator[str]:
    for entry in sorted(os.scandir(folder), key=lambda one: one.name):
        if entry.name.startswith("."):
            continue
        if entry.is_dir(follow_symlinks=False):
            yield from _within(entry.path)
        else:
            yield entry.path


def _pages(manifest: str) -> Iterator[str]:
    """The images of a manifest; of one that cannot be read none: whoever reads it says so."""
    from kivel.files.documents import read_json

    try:
        for page in read_json(Path(manifest), most=_MOST_BYTES).get("pages", []):
            for image in page["maps"].values():
                yield os.path.join(os.path.dirname(manifest), image["file"])
    except (KivelError, TypeError, KeyError, AttributeError):
        return


def _named_by_profile(profile: str) -> Iterator[str]:
    """Templates and schemas."""
    from kivel.files.documents import read_toml

    try:
        path = Path(profile)
        for output in read_toml(file_text(path, most=_MOST_BYTES), profile).get("output", []):
            for key in ("template_file", "schema"):
                if key in output:
                    yield str(path.parent / output[key])
    except (KivelError, TypeError, AttributeError):
        return
