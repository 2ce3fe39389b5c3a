"""Exports: what a manifest says, for other programs."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from kivel.core.errors import KivelError, UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.core.wording import WARNING, first_few
from kivel.files.own_digest import is_unedited, with_own_digest
from kivel.files.ownership import manifest_for
from kivel.files.profile_file import read_profile
from kivel.making.exports.export_targets import exported
from kivel.making.exports.exported_sheets import ExportedSheet, ToExport
from kivel.making.exports.pack_checks import faded_otherwise, undivided_where_used
from kivel.making.exports.pack_writing import write_pack
from kivel.making.exports.packs import Pack, pack_of
from kivel.making.options.export_options import TARGETS, ExportOptions

if TYPE_CHECKING:
    from kivel.files.output_set import Written
    from kivel.making.exports.exported_sheets import ExportedSheet
    from kivel.making.work import Work

__all__ = ["ExportMade", "make_export"]


class ExportMade(NamedTuple):
    """The files and what became of each, what was removed of a pack; bytes by name where nothing was written."""

    files: tuple[Written, ...]
    notes: tuple[str, ...]
    contents: dict[str, bytes]
    removed: tuple[str, ...] = ()


def make_export(options: ExportOptions, work: Work) -> ExportMade:
    """Export manifests.

    Raises
    ------
    KivelError
        What the options, the manifests or the disk do not allow; nothing is written then.
    """
    contents: dict[Path, bytes] = {}
    paths = [] if options.list else [manifest_for(Path(name)) for name in options.manifests]
    for path in [] if options.profile else paths:
        sheet = ExportedSheet(path, options, work)
        for target in options.targets:
            for file, content in _exports(options, work, sheet, target):
                if file in contents:
                    raise UsageError(f"{file}: two outputs have this name; export them into separate folders")
                contents[file] = with_own_digest(content)
    if options.profile:
        return _pack(options, work, paths)
    if not options.out:
        return ExportMade((), tuple(work.notes), {file.name: content for file, content in contents.items()})
    with options.output_set(work, with_manifest=False, is_ours=is_unedited) as out:
        out.reads(paths)
        for file, content in contents.items():
            out.add(file, [content])
    return ExportMade(tuple(out.written), tuple(work.notes), {})


def _pack(options: ExportOptions, work: Work, paths: Sequence[Path]) -> ExportMade:
    file = read_profile(Path(options.profile or ""))

    def packed(others: Sequence[Path]) -> Pack:
        return pack_of(file, paths, options, work, others=others)

    if options.out:
        pack, files, removed = write_pack(packed, file, options, work)
    else:
        pack, files, removed = packed(()), (), ()
    for sheet, why in (*undivided_where_used(file, pack.sheets), *faded_otherwise(file, pack.sheets)):
        work.note(f"{WARNING}{sheet.where}: {why}")
    return ExportMade(files, tuple(work.notes), {} if options.out else pack.files, removed)


def _exports(options: ExportOptions, work: Work, sheet: ExportedSheet, name: str) -> Iterator[tuple[Path, bytes]]:
    """The files of one target, one for each clip where it takes one, and what is in them."""
    target, clips = TARGETS[name], sheet.clips
    parts = [[clip] for clip in clips] if target.of_a_clip else [clips]
    if len(parts) > 1 and options.is_a_file:
        names = ", ".join(clip.name for clip in clips)
        raise UsageError(
            f"{sheet.path}: a {name} holds one clip; choose it with {option('clip')}, or write to a folder: {names}"
        )
    lost: dict[str, list[str]] = {}
    notes: dict[str, None] = {}
    for part in parts:
        stem = sheet.name + (f"-{part[0].name}" if len(parts) > 1 else "")
        file = Path(options.out or ".")
        file = file if options.is_a_file else file / f"{_file_name(stem)}{target.suffixes[0]}"
        table = sheet.table(part, file.parent if options.out else sheet.path.parent)
        made = exported(name, ToExport(sheet, table, file.suffix.lower()))
        for what, which in made.lost.items():
            lost.setdefault(what, []).extend(which)
        notes |= dict.fromkeys(made.notes)
        yield file, made.content
        for suffix, content in made.beside.items():
            yield file.with_name(f"{file.stem}{suffix}"), content
    members = {clip.name for clip in clips}
    if target.carries.groups == "noted":
        groups = [group.name for group in sheet.manifest.groups if members.intersection(group.members)]
        lost |= {"groups": groups} if groups else {}
    told = "; ".join(f"{what} ({first_few(which)})" for what, which in lost.items())
    if told and options.strict:
        raise KivelError(
            f"{target.called} has no place for {told}; remove {option('strict', True)}", where=str(sheet.path)
        )
    work.note(*([f"{sheet.path}: {target.called} has no place for {told}"] if told else []))
    work.note(*(f"{sheet.path}: {name}: {note}" for note in notes))


def _file_name(stem: str) -> str:
    """A clip may be called what no file can."""
    return "".join("_" if char in '<>:"/|?*\\' or ord(char) < 32 else char for char in stem)
