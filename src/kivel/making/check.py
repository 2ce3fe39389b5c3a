"""Find what would go wrong in the engine: bleeding cells, fringes, late maps, steps nobody sees, files nobody reads."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from contextlib import suppress
from datetime import date
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, Any, ClassVar, Literal

from kivel.core.checks.findings import CODES, Finding, Spot
from kivel.core.errors import KivelError, UsageError, option, spelled
from kivel.core.named_tuples import NamedTuple
from kivel.making.options.common_options import CommonOptions
from kivel.making.options.option import Option
from kivel.making.options.output_options import WritingOptions
from kivel.making.options.source_options import ChoosingOptions, ReadingOptions
from kivel.making.options.value_kinds import ANY_TEXT, FLAG, PATH, RATE, ValueKind, choice, moved_path, whole

if TYPE_CHECKING:
    from kivel.core.pixels import Pixels
    from kivel.files.manifest.model import Manifest
    from kivel.files.output_set import Written
    from kivel.making.checking.check_settings import CheckSettings
    from kivel.making.work import Work
    from kivel.sequences.sequence import FrameSequence

__all__ = ["CheckMade", "CheckOptions", "make_check"]

_LEVELS = 4
_DAY: date | None = None
"""Stands for today in tests."""


def _allowance_text(value: Any) -> str:
    """{"code", "pattern", "until", "reason"} as it is written."""
    unknown = set(value) - {"code", "pattern", "until", "reason"}
    if unknown or "code" not in value:
        raise ValueError
    parts = [f"{value['code']}={value['pattern']}" if "pattern" in value else str(value["code"])]
    parts += [f"until {value['until']}"] if "until" in value else []
    parts += [f"because {value['reason']}"] if "reason" in value else []
    return " ".join(parts)


_ALLOWANCE: ValueKind[str] = ValueKind("CODE[=PATTERN]", str, text=_allowance_text)


class CheckOptions(ReadingOptions, ChoosingOptions, WritingOptions, CommonOptions):
    """What is checked, and what is let pass."""

    title = "what for"
    everyday: ClassVar = (
        "only", "ignore", "strict", "baseline", "codes", "plays", "tolerance", "look", "clip", "profile", "on",
        "format", "clock",
    )  # fmt: skip
    sources: Option[tuple[str, ...]] = Option(
        PATH,
        "a manifest, a folder or files of frames, or with a profile the folder of a pack",
        default=(),
        form="SRC",
        many=True,
        positional=True,
        from_folder=moved_path,
    )
    only: Option[tuple[str, ...]] = Option(
        ANY_TEXT,
        "a code, a pattern of codes, or several with commas between (many)",
        default=(),
        many=True,
        form="CODE",
    )
    ignore: Option[tuple[str, ...]] = Option(
        _ALLOWANCE,
        'let pass: fringe, cut=moth*; with "until 2027-01-31" or "because REASON" behind (many)',
        default=(),
        many=True,
    )
    strict: Option[bool] = Option(FLAG, "warnings fail too", default=False)
    baseline: Option[str | None] = Option(
        PATH, "let pass what an earlier report has, made as JSON", default=None, from_folder=moved_path
    )
    codes: Option[str | None] = Option(
        ANY_TEXT, "list all codes, or explain one: how it is measured, from what on, and why", default=None,
        form="NAME", bare="all",
    )  # fmt: skip
    format: Option[Literal["text", "sarif"]] = Option(
        choice("text", "sarif"), "for people, or SARIF 2.1.0 for tools", default="text"
    )
    mips: Option[int] = Option(
        whole(0, 12), "the last level at which bleeding is measured", default=_LEVELS - 1, shown=str(_LEVELS - 1)
    )
    budget: Option[int | None] = Option(
        whole(1), "megabytes that a page may take uncompressed", default=None, form="MB", shown="none"
    )
    sides: Option[bool] = Option(FLAG, "each frame is a tile: do its sides meet?", default=False)
    clock: Option[Fraction | None] = Option(RATE, "the target's ticks a second, to hold holds against", default=None)
    plays: Option[str | None] = Option(
        PATH, "prove that a manifest shows what this source shows, pixel by pixel at its exact times", default=None,
        form="SRC", from_folder=moved_path,
    )  # fmt: skip
    tolerance: Option[int] = Option(
        whole(0, 255), "of a proof: how far values may be off, of 255", default=0, shown="0"
    )
    frames_only: Option[bool] = Option(
        FLAG, "of a proof: compare frames by their numbers, whatever their order and times", default=False
    )
    look: Option[str | None] = Option(
        PATH, "of a proof: a picture of the first difference", default=None, form="OUT.png", from_folder=moved_path
    )
    profile: Option[str | None] = Option(
        PATH, "SRC is the folder of a pack that is as this profile says", default=None, from_folder=moved_path
    )
    on: Option[tuple[str, ...]] = Option(
        PATH, "with a profile: the manifests that the pack is of (many)", default=(), form="MANIFEST", many=True,
        from_folder=moved_path,
    )  # fmt: skip

    def check(self) -> None:
        if self.codes is not None:
            if self.codes != "all" and self.codes not in CODES:
                raise UsageError(f"there is no code {self.codes!r}; {option('codes', True)} lists them")
            return
        super().check()
        if not self.sources:
            raise UsageError("SRC is needed: a manifest, a folder of frames, or a pack")
        if self.look and not self.plays:
            raise UsageError(f"{option('look')} shows the first difference of {option('plays')}; give both")
        if self.frames_only and not self.plays:
            raise UsageError(f"{option('frames-only', True)} is about {option('plays')}; give both")
        if self.on and not self.profile:
            raise UsageError(f"{option('on')} is about a pack; give its {option('profile')}")

    def settings(self) -> CheckSettings:
        """What is looked for and what is let pass.

        Raises
        ------
        KivelError
            If an allowance or a code is none, or the baseline no report.
        """
        from kivel.making.checking.allowances import known_findings, parse_allowance
        from kivel.making.checking.check_settings import CheckSettings

        return CheckSettings(
            only=frozenset(code for text in self.only for pattern in text.split(",") for code in _matching(pattern)),
            allowances=tuple(parse_allowance(text) for text in self.ignore),
            known=known_findings(Path(self.baseline)) if self.baseline else None,
            strict=self.strict,
            levels=self.mips + 1,
            budget=None if self.budget is None else self.budget * 1_000_000,
            clock=self.clock,
            sides=self.sides,
        )


class CheckMade(NamedTuple):
    """What was found, the gravest first; how much was let pass; the picture of a difference."""

    findings: tuple[Finding, ...]
    passed: int
    files: tuple[Written, ...]
    notes: tuple[str, ...]

    def fails(self, *, strict: bool) -> bool:
        return any(one.severity == "error" or (strict and one.severity == "warning") for one in self.findings)


def make_check(options: CheckOptions, work: Work) -> CheckMade:
    """Check sources.

    Raises
    ------
    KivelError
        What the options allow not, or a source that is none at all; what is odd about one is a finding.
    """
    from kivel.making.checking.allowances import let_pass

    if options.codes is not None:
        return CheckMade((), 0, (), ())
    settings = options.settings()
    files: tuple[Written, ...] = ()
    if options.plays:
        findings, files = _proved(options, work)
    elif options.profile:
        findings = [one for source in options.sources for one in _of_pack(options, work, Path(source))]
    else:
        sources = _subjects(options.sources)
        findings = [one for source in sources for one in _of_source(options, work, source, settings)]
    chosen = [one for one in findings if settings.wants(one.code)]
    said = [one._replace(text=spelled(one.text, options.door), fix=spelled(one.fix, options.door)) for one in chosen]
    left = let_pass(said, settings.allowances, settings.known or Counter(), _DAY or date.today())
    return CheckMade(tuple(left.findings), left.passed, files, tuple(work.notes))


def _matching(pattern: str) -> list[str]:
    from fnmatch import fnmatchcase

    codes = [code for code in CODES if fnmatchcase(code, pattern)]
    if not codes:
        raise UsageError(f"{option('only', pattern)}: there is no such code; {option('codes', True)} lists them")
    return codes


def _subjects(sources: tuple[str, ...]) -> list[tuple[str, ...]]:
    """Each manifest, folder and pattern by itself; plain images are frames of one sequence."""
    from kivel.files.images import IMAGE_SUFFIXES
    from kivel.files.ownership import page_of

    images = [name for name in sources if Path(name).is_file() and Path(name).suffix.lower() in IMAGE_SUFFIXES]
    pages = {name: page_of(Path(name)) for name in images}
    plain = tuple(name for name in images if pages[name] is None)
    meant = [str(pages.get(name) or name) for name in sources if name not in plain]
    return [*((name,) for name in dict.fromkeys(meant)), *([plain] if plain else [])]


def _of_source(
    options: CheckOptions, work: Work, sources: tuple[str, ...], settings: CheckSettings
) -> Iterator[Finding]:
    from kivel.making.checking.checked_clips import clip_findings

    if len(sources) == 1 and sources[0].endswith(".json"):
        yield from _of_manifest(options, work, Path(sources[0]), settings)
        return
    from kivel.sequences.finding import series_in
    from kivel.sequences.opening import open_sources

    reading = options.source_settings(work, keep_float=True)
    named = series_in(sources[0], reading._replace(series=True)) if len(sources) == 1 and not options.series else []
    several = [(one.quoted.strip('"'), reading._replace(pick=one.name, series=True)) for one in named]
    for file, picked in several if len(several) > 1 else [(sources[0], reading)]:
        sequence = open_sources(sources, picked)
        yield from _of_frames(options, work, sequence, file, settings)
        yield from clip_findings(sequence.clips, sequence.groups, file, settings.clock)


def _of_frames(
    options: CheckOptions, work: Work, sequence: FrameSequence, file: str, settings: CheckSettings
) -> Iterator[Finding]:
    from kivel.making.checking.checked_frames import frame_findings, looks_of

    with work.progress("looking at frames", len(sequence.frames)) as advance:
        looked = looks_of(sequence, jobs=options.threads, advance=advance)
    yield from frame_findings(looked, file, settings)


def _of_manifest(options: CheckOptions, work: Work, path: Path, settings: CheckSettings) -> Iterator[Finding]:
    """What is odd about a sheet: its pages first, then what is on them."""
    from kivel.files.manifest.names import ManifestError
    from kivel.files.manifest.parsing import read_manifest
    from kivel.making.checking.checked_clips import clip_findings
    from kivel.making.checking.checked_pages import PageSettings, map_findings, page_findings
    from kivel.sequences.opening import open_sources

    try:
        manifest = read_manifest(path)
    except ManifestError as error:
        yield Finding("manifest", "error", Spot(str(path)), None, error.message, "run the command that made it again")
        return
    looking = PageSettings(settings.levels, settings.budget, options.pixel_limit, options.threads)
    rects = len({(frame.page, *frame.rect) for frame in manifest.frames if frame.rect.w and frame.rect.h})
    maps = len(manifest.pages[0].maps) - 1 if manifest.pages else 0
    broken = False
    sequence = None
    reading = options.source_settings(work, keep_float=True, with_maps=True)
    with suppress(KivelError):  # of which more is said below; what it holds is decoded once for all who look
        sequence = open_sources([str(path)], reading)
    with work.progress("looking at pages", rects + maps * len(manifest.frames)) as advance:
        for finding in page_findings(manifest, path, looking, advance):
            broken = broken or finding.code in ("page-missing", "page-unreadable", "page-size")
            yield finding
        yield from map_findings(manifest, path, looking, advance)
    yield from clip_findings(manifest.clips, manifest.groups, str(path), settings.clock)
    yield from _of_motion(options, work, manifest, path, broken=broken)
    if not broken and manifest.frames:
        sequence = sequence or open_sources([str(path)], reading)
        yield from _of_frames(options, work, sequence, str(path), settings)


def _of_motion(options: CheckOptions, work: Work, manifest: Manifest, path: Path, *, broken: bool) -> Iterator[Finding]:
    """What is odd about its map of motion, and clips that are to be warped."""
    from kivel.sequences.placed import motion_of_manifest

    motion = motion_of_manifest(manifest)
    if motion is None and not any(clip.interpolation == "motion" for clip in manifest.clips):
        return
    from kivel.making.checking.checked_motion import motion_findings, unserved_findings

    yield from unserved_findings(manifest, path)
    if motion and not broken:
        with work.progress("looking at motion", len(motion.pairs)) as advance:
            yield from motion_findings(
                manifest, path, max_pixels=options.pixel_limit, jobs=options.threads, advance=advance
            )


def _of_pack(options: CheckOptions, work: Work, folder: Path) -> Iterator[Finding]:
    from kivel.files.ownership import manifest_for
    from kivel.files.profile_file import read_profile
    from kivel.making.checking.checked_pack import pack_findings
    from kivel.making.export import ExportOptions
    from kivel.making.exports.packs import pack_of

    if not folder.is_dir():
        raise UsageError(f"{folder}: with {option('profile')} a pack is checked, and this is no folder")
    file = read_profile(Path(options.profile or ""))
    made = None
    if options.on:
        paths = [manifest_for(Path(name)) for name in options.on]
        given = {"manifests": [str(one) for one in paths], "profile": str(file.path), "out": str(folder)}
        made = pack_of(file, paths, ExportOptions.of(given, door="python"), work).files
    yield from pack_findings(folder, file, made)


def _proved(options: CheckOptions, work: Work) -> tuple[list[Finding], tuple[Written, ...]]:
    from kivel.core.playback.clip import Timing, clip_of_frames
    from kivel.core.playback.groups import chosen_clips
    from kivel.making.checking.plays_as import differences, states_times
    from kivel.sequences.opening import open_sources

    findings: list[Finding] = []
    files: list[Written] = []
    for name in options.sources:
        settings = options.source_settings(work, keep_float=True)._replace(with_maps=True)
        sheet = open_sources([name], settings)
        source = open_sources([options.plays or ""], settings._replace(target=Path(name)))
        if not (options.frames_only or states_times(source)):
            work.note(f"{options.plays} states no times: its frames are compared in order")
        everything = clip_of_frames("all frames", [None] * len(sheet.frames), Timing())
        clips = chosen_clips(sheet.clips or (everything,), options.clip)
        for difference in differences(sheet, source, clips, name, options.tolerance, frames_only=options.frames_only):
            findings.append(difference.finding)
            if options.look and difference.source is not None and difference.sheet is not None and not files:
                files += _looked(options, work, difference.source, difference.sheet)
    return findings, tuple(files)


def _looked(options: CheckOptions, work: Work, source: Pixels, sheet: Pixels) -> list[Written]:
    """The source, the sheet and where they differ, side by side."""
    from kivel.files.png.write import encode_png
    from kivel.views.differences import draw_difference

    with options.output_set(work, with_manifest=False) as out:
        out.add(Path(options.look or ""), encode_png(draw_difference(source, sheet)))
    return out.written
