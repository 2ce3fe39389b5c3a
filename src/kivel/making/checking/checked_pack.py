"""Findings on the folder of a pack, by its profile: what is missing, misnamed, stale, or no text that a game reads."""

from __future__ import annotations

import codecs
import os
import re
from collections.abc import Iterator, Mapping, Sequence
from difflib import SequenceMatcher
from pathlib import Path, PurePosixPath

from kivel.core.checks.findings import Finding, Spot
from kivel.core.errors import KivelError, option
from kivel.files.file_digest import bytes_digest
from kivel.files.ledger import ledger_path, read_ledger
from kivel.files.profile_file import ProfileFile
from kivel.files.safety import file_bytes
from kivel.making.exports.packs import schema_errors
from kivel.making.playback.manifests import relative_to

__all__ = ["pack_findings"]

_MOST_BYTES = 1 << 32
_MOST_FILES = 100_000
_NEAR = 0.88
_MARKS = {codecs.BOM_UTF8: "utf-8-sig", codecs.BOM_UTF16_LE: "utf-16", codecs.BOM_UTF16_BE: "utf-16"}
_RICH = (b"{\\rtf", b"PK\x03\x04", b"\xd0\xcf\x11\xe0")


def pack_findings(folder: Path, file: ProfileFile, made: Mapping[str, bytes] | None) -> Iterator[Finding]:
    """Return what is odd about a pack; `made` are the files that its manifests make now, where those are given."""
    ledger = read_ledger(ledger_path(file.path))
    written = ledger.digests(relative_to(ledger.path.parent)(str(folder)))
    expected = set(written if made is None else made)
    there = _files_in(folder)
    yield from _clashes(there)
    misnamed: set[str] = set()
    for name in sorted(expected - set(there)):
        near = _nearest(name, [other for other in there if other not in expected | misnamed])
        if near:
            misnamed.add(near)
            text = f"is almost {name}, which is missing"
            yield Finding("file-misnamed", "error", Spot(near), None, text, f"rename it to {name}")
        else:
            yield Finding(
                "file-missing",
                "error",
                Spot(name),
                None,
                "is missing",
                f"kivel export {option('profile', file.path)}",
            )
    judged: dict[int, dict[str, str]] = {}
    for name in there:
        data = file_bytes(folder / name, most=_MOST_BYTES)
        if made is not None and name in made and data != made[name]:
            text = "is older than its manifest"
            yield Finding(
                "file-stale", "warning", Spot(name), None, text, f"kivel export {option('profile', file.path)}"
            )
        elif made is None and name in written and bytes_digest(data) != written[name]:
            yield Finding(
                "file-edited", "note", Spot(name), None, "was changed since Kivel wrote it", "export elsewhere"
            )
        elif name not in expected and name not in misnamed:
            yield Finding("orphan", "note", Spot(name), None, "no manifest makes it", "remove it if nobody needs it")
        yield from _as_text(file, name, data, judged)
    for number, texts in judged.items():
        for name, error in schema_errors(file, number, texts):
            yield Finding("schema", "error", Spot(name), None, error.message, "fix it, or export it again")
    yield from _lone_maps(file, there)


def _files_in(folder: Path) -> list[str]:
    found: list[str] = []
    for root, folders, names in os.walk(folder):
        folders.sort()
        found += [(Path(root) / name).relative_to(folder).as_posix() for name in sorted(names)]
        if len(found) > _MOST_FILES:
            raise KivelError(
                f"holds more than {_MOST_FILES:,} files; give the folder of the pack itself", where=str(folder)
            )
    return found


def _clashes(there: Sequence[str]) -> Iterator[Finding]:
    known: dict[str, str] = {}
    for name in there:
        other = known.setdefault(name.casefold(), name)
        if other != name:
            text = f"differs from {other} only in case"
            yield Finding("case-clash", "error", Spot(name), None, text, "rename one of them")


def _nearest(name: str, others: Sequence[str]) -> str | None:
    """One that was meant to be it: but for case, spaces and dashes, an ending dropped, doubled or put behind."""
    same = [other for other in others if _loose(other) == _loose(name)]
    if same:
        return same[0]
    folder = PurePosixPath(name).parent
    near = [other for other in others if PurePosixPath(other).parent == folder]
    likeness = {other: SequenceMatcher(None, other.casefold(), name.casefold()).ratio() for other in near}
    best = max(near, key=lambda other: (likeness[other], other), default=None)
    return best if best is not None and likeness[best] >= _NEAR and _same_stem(best, name) else None


def _loose(name: str) -> tuple[str, str]:
    path = PurePosixPath(name)
    plain = re.sub(r"[\s_-]+", "", path.name.casefold())
    stem = plain.partition(".")[0]
    return str(path.parent).casefold(), stem


def _same_stem(one: str, other: str) -> bool:
    """Numbers in names tell frames and clips apart: names that differ by them are two."""
    return re.findall(r"\d+", one) == re.findall(r"\d+", other)


def _as_text(file: ProfileFile, name: str, data: bytes, judged: dict[int, dict[str, str]]) -> Iterator[Finding]:
    """Return what is wrong with a file that one of the profile's outputs makes; `judged` gets what a schema is to
    judge.
    """
    for number, rule in enumerate(file.profile.output):
        if not _pattern(rule.file).fullmatch(name):
            continue
        mark = next((mark for mark in _MARKS if data.startswith(mark)), None)
        if mark and not rule.encoding.startswith(_MARKS[mark]):
            text = f"begins with a byte-order mark, and {file.path.name} says {rule.encoding}"
            yield Finding("text-encoding", "warning", Spot(name), None, text, "save it without one")
        if data.startswith(_RICH):
            yield Finding(
                "text-encoding", "error", Spot(name), None, "was saved by a word processor", "save it as plain text"
            )
        elif rule.schema is not None:
            judged.setdefault(number, {})[name] = data.decode(rule.encoding, "replace")
        return


def _pattern(pattern: str) -> re.Pattern[str]:
    """Names that a pattern may make; each field is a group where it is met first."""
    seen: set[str] = set()

    def group(found: re.Match[str]) -> str:
        field = found[1].partition(":")[0]
        if field in seen:
            return f"(?P={field})"
        seen.add(field)
        return f"(?P<{field}>[^/]+?)"

    parts = re.split(r"(\{[^{}]*\})", pattern)
    return re.compile(
        "".join(re.sub(r"\{([^{}]*)\}", group, part) if part[:1] == "{" else re.escape(part) for part in parts)
    )


def _lone_maps(file: ProfileFile, there: Sequence[str]) -> Iterator[Finding]:
    """Maps beside which there is no colour, by the profile's patterns."""
    image = file.profile.image.file
    if image is None:
        return
    color = _pattern(image)
    colors = [found.groupdict() for name in there if (found := color.fullmatch(name))]
    for map_name, rule in file.profile.maps.items():
        for name in there:
            found = _pattern(rule.file).fullmatch(name)
            if found is None or color.fullmatch(name):
                continue
            fields = found.groupdict()
            if not any(all(one.get(key, value) == value for key, value in fields.items()) for one in colors):
                text = f"a map ({map_name}) without a colour image: no file matches {image}"
                yield Finding("lone-map", "warning", Spot(name, map=map_name), None, text, "rename it, or export both")
