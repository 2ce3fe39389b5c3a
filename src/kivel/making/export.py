"""Write what a manifest says for other programs: the numbers of every frame, and when each shows."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, ClassVar, NamedTuple

from kivel.core.errors import KivelError, UsageError, option
from kivel.making.options.option import Option
from kivel.making.options.output_options import OutputOptions
from kivel.making.options.source_options import ChoosingOptions
from kivel.making.options.value_kinds import FLAG, PATH, RATE, choice, moved_path

if TYPE_CHECKING:
    from kivel.core.exporting.playback_table import PlaybackTable
    from kivel.core.exporting.step_tables import StepTable
    from kivel.core.exporting.texture_places import TextureOrigin
    from kivel.files.manifest.model import Manifest
    from kivel.files.output_set import Written
    from kivel.making.work import Work

__all__ = ["TARGETS", "ExportMade", "ExportOptions", "Target", "make_export"]


class Target(NamedTuple):
    """What a target is, and the suffixes of its forms, the usual one first."""

    about: str
    suffixes: tuple[str, ...]


TARGETS = {
    "table": Target(
        "frames, texture coordinates, pivots and the steps of every clip, as CSV, JSON or a C header",
        (".json", ".csv", ".h"),
    ),
}


class ExportOptions(ChoosingOptions, OutputOptions):
    """What is exported, and how it is counted."""

    title = "what for"
    everyday: ClassVar = ("to", "out", "clip", "origin", "half-texel", "clock", "force", "dry-run")
    manifests: Option[tuple[str, ...]] = Option(
        PATH,
        "NAME.kivel.json",
        default=(),
        form="MANIFEST",
        many=True,
        positional=True,
        needed=True,
        from_folder=moved_path,
    )
    to: Option[str] = Option(choice(*TARGETS), "what to write: table", default="table", shown="table")
    out = OutputOptions.out.but(
        form="OUT", help="the file, its suffix choosing the form: .json, .csv or .h; of several manifests the folder"
    )
    origin: Option[TextureOrigin] = Option(
        choice("top", "bottom"), "where texture coordinates begin", default="top", shown="top"
    )
    half_texel: Option[bool] = Option(
        FLAG,
        "texture coordinates from the centres of the outermost texels, so that neighbours never show",
        default=False,
    )
    clock: Option[Fraction | None] = Option(
        RATE, "holds in whole ticks of another clock, R a second; the drift is told", default=None
    )

    def check(self) -> None:
        super().check()
        if self.out and len(self.manifests) == 1:
            target = TARGETS[self.to]
            if Path(self.out).suffix.lower() not in target.suffixes:
                raise UsageError(f"{option('out', self.out)}: a {self.to} ends in {', '.join(target.suffixes)}")


class ExportMade(NamedTuple):
    """The files and what became of each; `texts` by name where nothing was written."""

    files: tuple[Written, ...]
    notes: tuple[str, ...]
    texts: dict[str, str]


def make_export(options: ExportOptions, work: Work) -> ExportMade:
    """Export manifests.

    Raises
    ------
    KivelError
        What the options, the manifests or the disk do not allow; nothing is written then.
    """
    from kivel.files.formats.table_files import TABLE_FORMATS
    from kivel.files.manifest.parsing import read_manifest
    from kivel.files.ownership import manifest_for

    texts: dict[Path, str] = {}
    paths = [manifest_for(Path(name)) for name in options.manifests]
    for path in paths:
        target = _file_for(options, path)
        if target in texts:
            raise UsageError(f"{target}: two manifests would be written there; export them into folders of their own")
        table = _table(options, work, read_manifest(path), path)
        texts[target] = TABLE_FORMATS[target.suffix.lower()](table)
    if not options.out:
        return ExportMade((), tuple(work.notes), {target.name: text for target, text in texts.items()})
    with options.output_set(work, with_manifest=False) as out:
        out.reads(paths)
        for target, text in texts.items():
            out.add(target, [text.encode()])
    return ExportMade(tuple(out.written), tuple(work.notes), {})


def _file_for(options: ExportOptions, path: Path) -> Path:
    from kivel.files.manifest.names import SUFFIX

    usual = TARGETS[options.to].suffixes[0]
    if options.out and len(options.manifests) == 1:
        return Path(options.out)
    return Path(options.out or ".") / f"{path.name.removesuffix(SUFFIX)}{usual}"


def _table(options: ExportOptions, work: Work, manifest: Manifest, path: Path) -> PlaybackTable:
    from kivel.core.exporting.playback_table import PlaybackTable, TableFrame, TablePage
    from kivel.core.exporting.step_tables import step_table
    from kivel.core.exporting.texture_places import texture_place
    from kivel.core.pixels import Pair, Size
    from kivel.core.playback.groups import chosen_clips
    from kivel.files.manifest.names import SUFFIX

    tables = [step_table(clip, options.clock) for clip in chosen_clips(manifest.clips, options.clip)]
    for table in tables:
        _tell_drift(options, work, table)
    frames = tuple(
        TableFrame(
            frame.name,
            frame.page,
            frame.rect,
            frame.turn,
            frame.flip or "",
            Size(*frame.canvas),
            Pair(*frame.offset),
            (Fraction(frame.pivot[0]), Fraction(frame.pivot[1])),
            texture_place(
                frame.rect, Size(*manifest.pages[frame.page].size), options.origin, half_texel=options.half_texel
            ),
        )
        for frame in manifest.frames
    )
    pages = tuple(
        TablePage(Size(*page.size), {name: file.file for name, file in page.maps.items()}) for page in manifest.pages
    )
    name = path.name.removesuffix(SUFFIX)
    return PlaybackTable(name, options.origin, options.half_texel, pages, frames, tuple(tables))


def _tell_drift(options: ExportOptions, work: Work, table: StepTable) -> None:
    """How far the times on another clock are from the exact ones."""
    if options.clock is None:
        return
    name = table.clip.name
    if table.merged:
        steps = ", ".join(map(str, table.merged))
        raise KivelError(
            f'clip "{name}": at {options.clock} ticks a second steps {steps} would show for no time; '
            f"raise {option('clock', 'R')}, or hold them longer"
        )
    if table.error or table.longer:
        longer = f", a cycle is {float(table.longer * 1000):+.3f} ms off" if table.longer else ""
        work.note(f'clip "{name}": steps end up to {float(table.error * 1000):.3f} ms off{longer}')
