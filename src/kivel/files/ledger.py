"""`NAME.ledger.json` beside a profile: which files of which pack each exporter wrote, and what was in them.

It lies beside the profile and not in the pack: a pack is for others. A digest with this user's key is beside what
each exporter wrote; without it nothing is removed on the ledger's word.
"""

from __future__ import annotations

import json
import os
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Any

from kivel.core.errors import KivelError
from kivel.core.exporting.name_patterns import require_inside
from kivel.core.named_tuples import NamedTuple
from kivel.files.documents import json_table
from kivel.files.file_digest import file_digest
from kivel.files.own_state import is_own, own_mark
from kivel.files.safety import OutputError, file_bytes, shown

__all__ = ["Exporter", "Ledger", "Owned", "leads_out", "ledger_path", "ledger_text", "read_ledger"]

_MOST_BYTES = 64 << 20
_PURPOSE = "ledger"


class Exporter(NamedTuple):
    """Who writes files of a pack. Paths are as seen from the ledger.

    `task` is one of a recipe, as "kivel.toml: moth.export", empty for an export by hand; `manifests` are what it is of,
    in order.
    """

    task: str
    manifests: tuple[str, ...]

    def goes_on_from(self, other: Exporter) -> bool:
        """Whether it is the other one, with manifests that came or went; tasks of a recipe differ by name."""
        if self.task and other.task:
            return self.task == other.task
        own, others = set(self.manifests), set(other.manifests)
        return own <= others or own >= others


class Owned(NamedTuple):
    """Holds what one exporter wrote, digests by name; `mark` is the proof that it did."""

    exporter: Exporter
    files: Mapping[str, str]
    mark: str

    def is_proven(self, pack: str) -> bool:
        return is_own(_PURPOSE, _marked(pack, self.exporter, self.files), self.mark)

    @classmethod
    def marked(cls, pack: str, exporter: Exporter, files: Mapping[str, str]) -> Owned:
        """The same with this user's mark."""
        return cls(exporter, files, own_mark(_PURPOSE, _marked(pack, exporter, files)))


class Ledger(NamedTuple):
    """Holds what exporters own of each pack, which goes by its folder as seen from the ledger."""

    path: Path
    packs: Mapping[str, tuple[Owned, ...]]

    def digests(self, pack: str) -> dict[str, str]:
        """All that Kivel wrote there."""
        return {name: digest for owned in self.packs.get(pack, ()) for name, digest in owned.files.items()}

    def is_as_written(self, pack: str, folder: Path, name: str) -> bool:
        """Whether a file of a pack is there, and is still the text that Kivel wrote."""
        digest = self.digests(pack).get(name)
        return digest is not None and not leads_out(folder, name) and file_digest(folder / name) == digest


def _marked(pack: str, exporter: Exporter, files: Mapping[str, str]) -> bytes:
    return json.dumps([pack, exporter.task, exporter.manifests, sorted(files.items())]).encode()


def leads_out(folder: Path, name: str) -> bool:
    """Whether a name in a folder leads out of it, by a link on the way."""
    inside = os.path.realpath(folder)
    return os.path.commonpath([inside, os.path.realpath((folder / name).parent)]) != inside


def ledger_path(profile: Path) -> Path:
    """
    >>> ledger_path(Path("pack/tiles.toml")).as_posix()
    'pack/tiles.ledger.json'
    """
    return profile.with_name(f"{profile.stem}.ledger.json")


def read_ledger(path: Path) -> Ledger:
    """Return the ledger at a path; where there is none, an empty one.

    Raises
    ------
    OutputError
        If it cannot be read or is damaged: it is not guessed what is Kivel's.
    """
    if not os.path.lexists(path):
        return Ledger(path, {})
    data = file_bytes(path, most=_MOST_BYTES, follow_links=False)
    try:
        packs = {pack: tuple(_owned(one) for one in owned) for pack, owned in json_table(data)["packs"].items()}
    except (KeyError, TypeError, AttributeError, KivelError) as error:
        raise OutputError(
            "is damaged, so Kivel cannot tell which files are its own; repair it or move it away", where=shown(path)
        ) from error
    return Ledger(path, packs)


def _owned(said: Any) -> Owned:
    exporter = Exporter(str(said["task"]), tuple(map(str, said["manifests"])))
    files = {str(name): str(digest) for name, digest in said["files"].items()}
    for name in files:
        require_inside(name)
    return Owned(exporter, files, str(said["mark"]))


def ledger_text(packs: Mapping[str, Iterable[Owned]]) -> str:
    """The same packs and files give the same text, for one user."""
    ordered = {}
    for pack, owned in sorted(packs.items()):
        filled = sorted((one for one in owned if one.files), key=lambda one: (one.exporter, sorted(one.files)))
        if filled:
            ordered[pack] = [_said(one) for one in filled]
    content = {"format": "kivel-ledger", "version": 1, "packs": ordered}
    return json.dumps(content, indent=2, ensure_ascii=False) + "\n"


def _said(owned: Owned) -> dict[str, Any]:
    exporter = owned.exporter
    files = dict(sorted(owned.files.items()))
    return {"task": exporter.task, "manifests": exporter.manifests, "files": files, "mark": owned.mark}
