"""Writing a pack beside what is there: what is Kivel's and unedited is replaced, or removed once it is not made.

Several exporters may fill one pack: each owns what it wrote.
"""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterator, Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from kivel.core.errors import KivelError, UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.core.wording import first_few
from kivel.files.file_digest import bytes_digest
from kivel.files.ledger import Exporter, Ledger, Owned, leads_out, ledger_path, ledger_text, read_ledger
from kivel.files.locks import locked
from kivel.files.output_set import OutputSet, Written
from kivel.files.ownership import page_of
from kivel.files.profile_file import ProfileFile
from kivel.files.safety import OutputError, shown
from kivel.making.exports.packs import Pack
from kivel.making.playback.manifests import relative_to

if TYPE_CHECKING:
    from kivel.making.options.export_options import ExportOptions
    from kivel.making.work import Work

__all__ = ["others_in_pack", "write_pack"]

_PATIENCE_S = 60.0


def write_pack(
    packed: Callable[[Sequence[Path]], Pack], file: ProfileFile, options: ExportOptions, work: Work
) -> tuple[Pack, tuple[Written, ...], tuple[str, ...]]:
    """Write all files and the ledger as one set; the pack, the files that became of it, and the names that are gone.

    `packed` gives the pack, with the manifests that it has already of others: files about all of it keep their rows.

    What is no longer made is removed last, under `--prune`, and stays in the ledger until it is gone.

    Raises
    ------
    OutputError
        If somebody else's file is in the way, another exporter writes it, or the disk does not allow it; nothing is
        written then.
    """
    looks_only = options.dry_run or options.diff
    with _alone(ledger_path(file.path), looks_only=looks_only):
        return _written(packed, file, options, work, looks_only=looks_only)


def others_in_pack(file: ProfileFile, folder: Path, manifests: Sequence[Path]) -> list[Path]:
    """Manifests that were exported into a pack besides these, and are there, as this user's ledger says."""
    ledger = read_ledger(ledger_path(file.path))
    seen = relative_to(ledger.path.parent)
    pack, given = seen(str(folder)), {seen(str(path)) for path in manifests}
    known = {
        name for one in ledger.packs.get(pack, ()) if one.is_proven(pack) for name in one.exporter.manifests
    }  # fmt: skip
    paths = [ledger.path.parent / name for name in sorted(known - given)]
    return [path for path in paths if path.is_file()]


@contextlib.contextmanager
def _alone(ledger: Path, *, looks_only: bool) -> Iterator[None]:
    """Exporters that share a ledger read and write it one after the other."""
    busy = KivelError("another export has been writing it for a minute; run the command again", where=shown(ledger))
    paths = [] if looks_only else [ledger.with_name(f".{ledger.name}.lock")]
    with locked(paths, patience_s=_PATIENCE_S, busy=lambda _path: busy):
        yield


def _written(
    packed: Callable[[Sequence[Path]], Pack], file: ProfileFile, options: ExportOptions, work: Work, *, looks_only: bool
) -> tuple[Pack, tuple[Written, ...], tuple[str, ...]]:
    folder = Path(options.out or "")
    ledger = read_ledger(ledger_path(file.path))
    at = _PackFiles(folder, ledger, relative_to(ledger.path.parent)(str(folder)), _exporter(options, work, ledger))
    has_shared = any(rule.each == "pack" for rule in file.profile.output)
    others = at.manifests_beside(prune=options.prune) if has_shared else []
    pack = packed([ledger.path.parent / name for name in others])
    if not (pack.files or ledger.packs):
        work.note(f"{shown(file.path)}: it writes nothing: set image.file for pages, [[output]] for other files")
        return pack, (), ()
    at = at.going_on_with(others)._replace(shared=pack.shared)
    at.require_ones_own(pack.files, work, force=options.force)
    stale = at.stale(pack.files)
    edited = [name for name in stale if not ledger.is_as_written(at.name, folder, name)]
    strange = [name for name in stale if name not in edited and not at.is_proven(name)]
    proven = [name for name in stale if name not in edited and name not in strange]
    removed = proven if options.prune else []
    _tell(work, at, options, edited=edited, strange=strange, left=[name for name in proven if name not in removed])
    with _set(at, options, work, looks_only=looks_only) as out:
        out.reads(pack.inputs)
        for name, content in pack.files.items():
            out.add(folder / name, [content])
        out.add(ledger.path, [at.text(pack.files, stale).encode()])
    if removed and not looks_only:
        for name in removed:
            (folder / name).unlink(missing_ok=True)
        kept = [name for name in stale if name not in removed]
        with _set(at, options, work, looks_only=False) as last:
            last.add(ledger.path, [at.text(pack.files, kept).encode()])
    files = tuple(file for file in out.written if file.path != ledger.path or not options.diff)
    return pack, files, tuple(removed)


def _exporter(options: ExportOptions, work: Work, ledger: Ledger) -> Exporter:
    seen = relative_to(ledger.path.parent)
    task = f"{seen(work.task.recipe)}: {work.task.name}" if work.task else ""
    return Exporter(task, tuple(sorted(map(seen, options.manifests))))


class _PackFiles(NamedTuple):
    """Where a pack is, by what name the ledger knows it, and for whom it is written.

    `shared` are files about all sheets of the pack, which every exporter may write.
    """

    folder: Path
    ledger: Ledger
    name: str
    exporter: Exporter
    shared: frozenset[str] = frozenset()

    def manifests_beside(self, *, prune: bool) -> list[str]:
        """Manifests of which the pack has rows already, as this user's Kivel wrote down; under `prune` those of others.

        Raises
        ------
        UsageError
            If one is gone: nothing would make its rows.
        """
        owned = self._others if prune else self.ledger.packs.get(self.name, ())
        proven = {name for one in owned if one.is_proven(self.name) for name in one.exporter.manifests}
        names = sorted(proven - {*self.exporter.manifests})
        gone = [name for name in names if not (self.ledger.path.parent / name).is_file()]
        if gone and not prune:
            raise UsageError(
                f"has rows of {first_few(gone)}, which is gone; {option('prune', True)} removes them",
                where=shown(self.folder),
            )
        return [name for name in names if name not in gone]

    def going_on_with(self, others: Sequence[str]) -> _PackFiles:
        """The same for an exporter that keeps the rows of its own manifests among these."""
        own = {name for one in self._own for name in one.exporter.manifests}
        kept = sorted({*self.exporter.manifests, *(name for name in others if name in own)})
        return self._replace(exporter=self.exporter._replace(manifests=tuple(kept)))

    @property
    def _own(self) -> list[Owned]:
        return [one for one in self.ledger.packs.get(self.name, ()) if self.exporter.goes_on_from(one.exporter)]

    @property
    def _others(self) -> list[Owned]:
        return [one for one in self.ledger.packs.get(self.name, ()) if one not in self._own]

    @property
    def keeps_shared(self) -> bool:
        """Whether it is the one exporter that answers for shared files, so that a build sees when one is missing."""
        return all(self.exporter >= one.exporter for one in self._others)

    def require_ones_own(self, made: Mapping[str, bytes], work: Work, *, force: bool) -> None:
        """Require that nobody else writes these files, and that none lies behind a link that leads out."""
        for name in made:
            if leads_out(self.folder, name):
                where = shown((self.folder / name).parent)
                raise OutputError("is behind a link that leads out of the pack; remove the link", where=where)
        for other in [] if force else self._others:
            shared = self.shared if other.is_proven(self.name) else ()
            both = [
                name for name in made
                if name in other.files and name not in shared and (self.folder / name).exists()
            ]  # fmt: skip
            if both and self._is_at_work(other.exporter, work):
                whose = other.exporter.task or f"the export of {first_few(list(other.exporter.manifests))}"
                raise UsageError(
                    f"{first_few(both)}: already written by {whose}; use other names or another folder "
                    f"({option('force', True)} takes them over)",
                    where=shown(self.folder),
                )

    def _is_at_work(self, other: Exporter, work: Work) -> bool:
        """Whether another exporter may still write: its task is in the recipe, its manifests are there."""
        if work.task and other.task.startswith(f"{self.exporter.task.removesuffix(work.task.name)}"):
            return other.task.rpartition(": ")[2] in work.task.others
        return any((self.ledger.path.parent / name).exists() for name in other.manifests)

    def is_ours(self, path: Path) -> bool:
        if path == self.ledger.path:
            return True
        return self.ledger.is_as_written(self.name, self.folder, path.relative_to(self.folder).as_posix())

    def is_proven(self, name: str) -> bool:
        """Whether this user's Kivel wrote a file."""
        return any(name in one.files and one.is_proven(self.name) for one in self._own)

    def stale(self, made: Mapping[str, bytes]) -> list[str]:
        """The names of files that this exporter wrote there and that are no longer made."""
        known = {name for one in self._own for name in one.files}
        return [name for name in sorted(known) if name not in made and (self.folder / name).is_file()]

    def text(self, made: Mapping[str, bytes], kept: Sequence[str]) -> str:
        """The ledger as it is then; `kept` are files that stay there though they are no longer made.

        What others wrote stays as it is, but for names that are taken over. What nobody proves goes on unproven.
        """
        files = {name: bytes_digest(content) for name, content in made.items()}
        unproven = []
        for one in self._own:
            left = {name: one.files[name] for name in kept if name in one.files}
            if one.is_proven(self.name):
                files |= left
            else:
                unproven.append(Owned(one.exporter, left, ""))
        others = [one if not one.files.keys() & made.keys() else self._without(one, made) for one in self._others]
        own = Owned.marked(self.name, self.exporter, files)
        return ledger_text({**self.ledger.packs, self.name: [own, *unproven, *others]})

    def _without(self, one: Owned, made: Mapping[str, bytes]) -> Owned:
        left = {name: digest for name, digest in one.files.items() if name not in made}
        return Owned.marked(self.name, one.exporter, left) if one.is_proven(self.name) else one._replace(files=left)


def _set(at: _PackFiles, options: ExportOptions, work: Work, *, looks_only: bool) -> OutputSet:
    def placed(files: Sequence[Written]) -> None:
        others = {at.ledger.path, *(at.folder / name for name in at.shared if not at.keeps_shared)}
        work.placed([file for file in files if file.path not in others])  # they write these too

    return OutputSet(
        force=options.force,
        is_ours=at.is_ours,
        dry_run=looks_only,
        page_of=page_of,
        tell=work.note,
        placed=placed,
    )


def _tell(
    work: Work,
    at: _PackFiles,
    options: ExportOptions,
    *,
    edited: Sequence[str],
    strange: Sequence[str],
    left: Sequence[str],
) -> None:
    for name in edited:
        work.note(f"{(at.folder / name).as_posix()}: no longer made, but edited since; kept")
    if left:
        work.note(f"no longer made: {first_few(list(left))}; {option('prune', True)} removes them")
    if strange and options.prune:
        names = first_few([(at.folder / name).as_posix() for name in strange])
        work.note(f"{names}: no longer made, but written by another user or machine; remove them yourself")
