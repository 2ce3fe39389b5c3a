"""Checks: whatever is to be looked at, the findings on it, and which of them are let pass."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from contextlib import suppress
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING

from kivel.core.checks.findings import Finding, Spot
from kivel.core.errors import KivelError, UsageError, option, spelled
from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.clip import Timing, clip_of_frames
from kivel.core.playback.groups import chosen_clips
from kivel.files.images import IMAGE_SUFFIXES
from kivel.files.manifest.names import ManifestError, is_manifest_name
from kivel.files.manifest.parsing import read_manifest
from kivel.files.ownership import manifest_for, page_of
from kivel.files.png.write import encode_png
from kivel.files.profile_file import read_profile
from kivel.making.checking.allowances import let_pass
from kivel.making.checking.checked_clips import clip_findings
from kivel.making.checking.checked_frames import frame_findings, looks_of
from kivel.making.checking.checked_motion import motion_findings, unserved_findings
from kivel.making.checking.checked_pack import pack_findings
from kivel.making.checking.checked_pages import PageSettings, map_findings, page_findings
from kivel.making.checking.plays_as import differences, states_times
from kivel.making.exports.pack_checks import faded_otherwise, undivided_where_used
from kivel.making.exports.pack_writing import others_in_pack
from kivel.making.exports.packs import pack_of
from kivel.making.options.check_options import CheckOptions
from kivel.making.options.export_options import ExportOptions
from kivel.sequences.finding import series_in
from kivel.sequences.opening import open_sources
from kivel.sequences.placed import motion_of_manifest
from kivel.views.differences import draw_difference

if TYPE_CHECKING:
    from kivel.core.pixels.pixels import Pixels
    from kivel.files.manifest.model import Manifest
    from kivel.files.output_set import Written
    from kivel.making.checking.check_settings import CheckSettings
    from kivel.making.work import Work
    from kivel.sequences.sequence import FrameSequence

__all__ = ["CheckMade", "make_check"]

_DAY: date | None = None
"""Stands for today in tests."""


class CheckMade(NamedTuple):
    """Holds what was found, the gravest first; how much was let pass; the picture of a difference."""

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


def _subjects(sources: tuple[str, ...]) -> list[tuple[str, ...]]:
    """Each manifest, folder and pattern by itself; plain images are frames of one sequence."""
    images = [name for name in sources if Path(name).is_file() and Path(name).suffix.lower() in IMAGE_SUFFIXES]
    pages = {name: page_of(Path(name)) for name in images}
    plain = tuple(name for name in images if pages[name] is None)
    meant = [str(pages.get(name) or name) for name in sources if name not in plain]
    return [*((name,) for name in dict.fromkeys(meant)), *([plain] if plain else [])]


def _of_source(
    options: CheckOptions, work: Work, sources: tuple[str, ...], settings: CheckSettings
) -> Iterator[Finding]:
    if len(sources) == 1 and is_manifest_name(sources[0]):
        yield from _of_manifest(options, work, Path(sources[0]), settings)
        return

    reading = options.source_settings(work, keep_float=True)
    named = series_in(sources[0], reading._replace(series=True)) if len(sources) == 1 and not options.series else []
    several = [(one.quoted.strip('"'), reading._replace(pick=one.name, series=True)) for one in named]
    for file, picked in several if len(several) > 1 else [(sources[0], reading)]:
        sequence = open_sources(sources, picked)
        work.edits += sequence.edits
        yield from _of_frames(options, work, sequence, file, settings)
        yield from clip_findings(sequence.clips, sequence.groups, file, settings.clock)


def _of_frames(
    options: CheckOptions, work: Work, sequence: FrameSequence, file: str, settings: CheckSettings
) -> Iterator[Finding]:
    with work.progress("looking at frames", len(sequence.frames)) as advance:
        looked = looks_of(sequence, jobs=options.threads, advance=advance)
    yield from frame_findings(looked, file, settings)


def _of_manifest(options: CheckOptions, work: Work, path: Path, settings: CheckSettings) -> Iterator[Finding]:
    """Return what is odd about a sheet: its pages first, then what is on them."""
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
    with suppress(KivelError):  # of which more is noted below; what it holds is decoded once for all who look
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
    """Return what is odd about its map of motion, and clips that are to be warped."""
    motion = motion_of_manifest(manifest)
    if motion is None and not any(clip.interpolation == "motion" for clip in manifest.clips):
        return

    yield from unserved_findings(manifest, path)
    if motion and not broken:
        with work.progress("looking at motion", len(motion.pairs)) as advance:
            yield from motion_findings(
                manifest, path, max_pixels=options.pixel_limit, jobs=options.threads, advance=advance
            )


def _of_pack(options: CheckOptions, work: Work, folder: Path) -> Iterator[Finding]:
    if not folder.is_dir():
        raise UsageError(f"{folder}: with {option('profile')} SRC must be the folder of a pack")
    file = read_profile(Path(options.profile or ""))
    made = None
    if options.on:
        paths = [manifest_for(Path(name)) for name in options.on]
        given = {"manifests": [str(one) for one in paths], "profile": str(file.path), "out": str(folder)}
        others = others_in_pack(file, folder, paths)
        pack = pack_of(file, paths, ExportOptions.of(given, door="python"), work, others=others)
        made = pack.files
        for sheet, why in undivided_where_used(file, pack.sheets):
            fix = f"make the sheet with {option('divided', True)}"
            yield Finding("page-not-divided", "warning", Spot(sheet.where), None, why, fix)
        for sheet, why in faded_otherwise(file, pack.sheets):
            fix = f"fade again with {option('fade', file.profile.fade)}"
            yield Finding("fade-differs", "warning", Spot(sheet.where), None, why, fix)
    yield from pack_findings(folder, file, made)


def _proved(options: CheckOptions, work: Work) -> tuple[list[Finding], tuple[Written, ...]]:
    findings: list[Finding] = []
    files: list[Written] = []
    for name in options.sources:
        settings = options.source_settings(work, keep_float=True)._replace(with_maps=True)
        sheet = open_sources([name], settings)
        source = open_sources([options.plays or ""], settings._replace(target=Path(name)))
        if not (options.frames_only or states_times(source)):
            work.note(f"{options.plays} has no times: its frames are compared in order")
        everything = clip_of_frames("all frames", [None] * len(sheet.frames), Timing())
        clips = chosen_clips(sheet.clips or (everything,), options.clip)
        for difference in differences(sheet, source, clips, name, options.tolerance, frames_only=options.frames_only):
            findings.append(difference.finding)
            if options.difference and difference.source is not None and difference.sheet is not None and not files:
                files += _looked(options, work, difference.source, difference.sheet)
    return findings, tuple(files)


def _looked(options: CheckOptions, work: Work, source: Pixels, sheet: Pixels) -> list[Written]:
    """The source, the sheet and where they differ, side by side."""
    with options.output_set(work, with_manifest=False) as out:
        out.add(Path(options.difference or ""), encode_png(draw_difference(source, sheet)))
    return out.written
