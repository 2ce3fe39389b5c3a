"""Writing a pack beside what is there: what is Kivel's and unedited is replaced, or removed once it is not made."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from kivel.core.errors import option
from kivel.core.named_tuples import NamedTuple
from kivel.core.wording import first_few
from kivel.files.ledger import Ledger, content_digest, ledger_path, ledger_text, read_ledger
from kivel.files.output_set import OutputSet, Written
from kivel.files.ownership import page_of
from kivel.files.safety import shown
from kivel.making.exports.packs import Pack
from kivel.making.manifests import relative_to

if TYPE_CHECKING:
    from kivel.making.export import ExportOptions
    from kivel.making.work import Work

__all__ = ["write_pack"]


def write_pack(
    pack: Pack, profile: Path, options: ExportOptions, work: Work
) -> tuple[tuple[Written, ...], tuple[str, ...]]:
    """Write all files and the ledger as one set; the files that became of it, and the names of those that were removed.

    What is no longer made is removed last, under `--prune`, and stays in the ledger until it is gone.

    Raises
    ------
    OutputError
        If somebody else's file is in the way, or the disk does not allow it; nothing is written then.
    """
    folder = Path(options.out or "")
    ledger = read_ledger(ledger_path(profile))
    if not (pack.files or ledger.packs):
        work.note(f"{shown(profile)}: nothing is written: image.file says where pages go, [[output]] what else is made")
        return (), ()
    at = _PackFiles(folder, ledger, relative_to(ledger.path.parent)(str(folder)))
    stale = at.stale(pack.files)
    edited = [name for name in stale if not at.is_ours(folder / name)]
    removed = [name for name in stale if name not in edited] if options.prune else []
    _tell(work, at, edited, [name for name in stale if name not in (*removed, *edited)])
    looks_only = options.dry_run or options.diff
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
    return files, tuple(removed)


class _PackFiles(NamedTuple):
    """Where a pack is, and how its files are known again: by its folder as the ledger sees it."""

    folder: Path
    ledger: Ledger
    name: str

    def is_ours(self, path: Path) -> bool:
        if path == self.ledger.path:
            return True
        inside = path.relative_to(self.folder).as_posix()
        return self.ledger.is_ours(self.name, self.folder, inside)

    def stale(self, made: Mapping[str, bytes]) -> list[str]:
        """The names of files that Kivel wrote there and that are no longer made."""
        known = self.ledger.packs.get(self.name, {})
        return [name for name in sorted(known) if name not in made and (self.folder / name).is_file()]

    def text(self, made: Mapping[str, bytes], kept: Sequence[str]) -> str:
        """The ledger as it is then; `kept` are files that stay there though they are no longer made."""
        known = self.ledger.packs.get(self.name, {})
        files = {name: content_digest(content) for name, content in made.items()}
        files |= {name: known[name] for name in kept}
        return ledger_text({**self.ledger.packs, self.name: files})


def _set(at: _PackFiles, options: ExportOptions, work: Work, *, looks_only: bool) -> OutputSet:
    return OutputSet(
        force=options.force,
        is_ours=at.is_ours,
        dry_run=looks_only,
        page_of=page_of,
        tell=work.note,
        placed=work.placed,
    )


def _tell(work: Work, at: _PackFiles, edited: Sequence[str], left: Sequence[str]) -> None:
    for name in edited:
        work.note(f"{(at.folder / name).as_posix()}: no longer made, but edited since Kivel wrote it; it stays")
    if left:
        work.note(f"no longer made: {first_few(list(left))}; {option('prune', True)} removes them")
