"""Write what a manifest says for other programs: the numbers of every frame, and when each shows."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, ClassVar, NamedTuple

from kivel.core.errors import KivelError, UsageError, option
from kivel.core.wording import first_few
from kivel.making.options.option import Option
from kivel.making.options.output_options import OutputOptions
from kivel.making.options.source_options import ChoosingOptions
from kivel.making.options.value_kinds import FLAG, PATH, RATE, choice, moved_path

if TYPE_CHECKING:
    from kivel.core.exporting.playback_table import PlaybackTable
    from kivel.core.exporting.step_tables import StepTable
    from kivel.core.exporting.texture_places import TextureOrigin
    from kivel.core.playback.clip import Clip
    from kivel.files.manifest.model import Manifest
    from kivel.files.output_set import Written
    from kivel.making.work import Work

__all__ = ["TARGETS", "ExportMade", "ExportOptions", "Target", "make_export"]


class Target(NamedTuple):
    """What a target is; the suffixes of its forms, the usual one first; whether it takes one clip; what it lacks."""

    about: str
    suffixes: tuple[str, ...]
    of_a_clip: bool
    lacks: str


TARGETS = {
    "table": Target(
        "frames, texture coordinates, pivots and the steps of every clip, as JSON, CSV or a C header",
        (".json", ".csv", ".h"),
        False,
        "nothing",
    ),
    "css": Target(
        "a class that plays a clip on a page, pixel for pixel, at its exact times",
        (".css",),
        True,
        "events; refused: blending, turned and mirrored frames, several pages",
    ),
    "svg": Target(
        "the same as one picture that plays by itself, its page in it",
        (".svg",),
        True,
        "events; refused: blending, turned and mirrored frames, several pages",
    ),
    "vtt": Target(
        "WebVTT: when each rectangle shows, in milliseconds",
        (".vtt",),
        True,
        "repeats, blending, events, turned, mirrored and trimmed frames",
    ),
}


class ExportOptions(ChoosingOptions, OutputOptions):
    """What is exported, and how it is counted."""

    title = "what for"
    everyday: ClassVar = ("to", "out", "clip", "origin", "half-texel", "clock", "strict", "list", "force", "dry-run")
    manifests: Option[tuple[str, ...]] = Option(
        PATH,
        "NAME.kivel.json",
        default=(),
        form="MANIFEST",
        many=True,
        positional=True,
        from_folder=moved_path,
    )
    to: Option[tuple[str, ...]] = Option(choice(*TARGETS), "what to write (many)", default=(), many=True, shown="table")
    out = OutputOptions.out.but(
        form="OUT", help="the file, its suffix choosing the form; a folder where there are several"
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

    strict: Option[bool] = Option(FLAG, "refuse what a target has no place for; otherwise it is told", default=False)
    list: Option[bool] = Option(FLAG, "say what there is to export to, and nothing else", default=False)

    def check(self) -> None:
        if self.list:
            return
        if not self.manifests:
            raise UsageError("MANIFEST is needed: NAME.kivel.json")
        super().check()
        if self.is_a_file and Path(self.out or "").suffix.lower() not in TARGETS[self.targets[0]].suffixes:
            suffixes = ", ".join(TARGETS[self.targets[0]].suffixes)
            raise UsageError(f"{option('out', self.out)}: a {self.targets[0]} ends in {suffixes}")

        known = [suffix for target in TARGETS.values() for suffix in target.suffixes]
        if not self.is_a_file and Path(self.out or "").suffix.lower() in known:
            raise UsageError(
                f"{option('out', self.out)}: there are several files; give a folder, a name without an ending"
            )

    @property
    def targets(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys(self.to)) or ("table",)

    @property
    def is_a_file(self) -> bool:
        """Whether OUT is one file, and not a folder of several."""
        one = len(self.manifests) == len(self.targets) == 1
        return one and bool(self.out) and bool(Path(self.out or "").suffix)


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
    from kivel.files.manifest.parsing import read_manifest
    from kivel.files.ownership import manifest_for

    texts: dict[Path, str] = {}
    paths = [] if options.list else [manifest_for(Path(name)) for name in options.manifests]
    for path in paths:
        manifest = read_manifest(path)
        for target in options.targets:
            for file, text in _texts(options, work, manifest, path, target):
                if file in texts:
                    raise UsageError(
                        f"{file}: two things would be written there; export them into folders of their own"
                    )
                texts[file] = text
    if not options.out:
        return ExportMade((), tuple(work.notes), {file.name: text for file, text in texts.items()})
    with options.output_set(work, with_manifest=False) as out:
        out.reads(paths)
        for file, text in texts.items():
            out.add(file, [text.encode()])
    return ExportMade(tuple(out.written), tuple(work.notes), {})


def _texts(options: ExportOptions, work: Work, manifest: Manifest, path: Path, name: str) -> Iterator[tuple[Path, str]]:
    """The files of one target, one for each clip where it takes one, and their texts."""
    from kivel.core.compose import to_8_bits
    from kivel.core.playback.groups import chosen_clips
    from kivel.files.manifest.names import COLOR, SUFFIX
    from kivel.files.page_store import stored_page
    from kivel.files.png.write import encode_png
    from kivel.making.export_targets import ToExport, exported

    target = TARGETS[name]
    clips = chosen_clips(manifest.clips, options.clip)
    parts = [[clip] for clip in clips] if target.of_a_clip else [clips]
    if len(parts) > 1 and options.is_a_file:
        names = ", ".join(clip.name for clip in clips)
        raise UsageError(f"{path}: a {name} is of one clip; say which by {option('clip')}, or give a folder: {names}")

    def page_png(page: int) -> bytes:
        image = stored_page(manifest, path, page, COLOR, max_pixels=options.pixel_limit, tell=work.note)
        return b"".join(encode_png(to_8_bits(image.pixels()), compress="small"))

    lost: dict[str, list[str]] = {}
    notes: dict[str, None] = {}
    for part in parts:
        stem = path.name.removesuffix(SUFFIX) + (f"-{part[0].name}" if len(parts) > 1 else "")
        file = Path(options.out or ".")
        file = file if options.is_a_file else file / f"{_file_name(stem)}{target.suffixes[0]}"
        table = _table(options, work, manifest, path, part, file)
        made = exported(name, ToExport(table, manifest.clips, file.suffix.lower(), page_png))
        for what in made.lost:
            lost.setdefault(what, []).append(part[0].name)
        notes |= dict.fromkeys(made.notes)
        yield file, made.text
    told = "; ".join(f"{what} ({first_few(clips)})" for what, clips in lost.items())
    if told and options.strict:
        raise KivelError(f"a {name} has no place for {told}; leave out {option('strict', True)}", where=str(path))
    work.note(*([f"{path}: a {name} has no place for {told}"] if told else []))
    work.note(*(f"{path}: {name}: {note}" for note in notes))


def _file_name(stem: str) -> str:
    """A clip may be called what no file can."""
    return "".join("_" if char in '<>:"/|?*\\' or ord(char) < 32 else char for char in stem)


def _table(
    options: ExportOptions, work: Work, manifest: Manifest, path: Path, clips: Sequence[Clip], file: Path
) -> PlaybackTable:
    from kivel.core.exporting.playback_table import PlaybackTable, TableFrame, TablePage
    from kivel.core.exporting.step_tables import step_table
    from kivel.core.exporting.texture_places import texture_place
    from kivel.core.pixels import Pair, Size
    from kivel.files.manifest.names import SUFFIX
    from kivel.making.manifests import relative_to

    moved = relative_to(file.parent if options.out else path.parent)
    tables = [step_table(clip, options.clock) for clip in clips]
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
        TablePage(Size(*page.size), {name: moved(str(path.parent / one.file)) for name, one in page.maps.items()})
        for page in manifest.pages
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
