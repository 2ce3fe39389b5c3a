"""Everything there is to say about a sequence or a manifest, gathered from its files."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from fractions import Fraction
from itertools import zip_longest
from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal, get_args

from kivel.core.errors import AllErrors, KivelError
from kivel.core.looping.likeness import Mirror, Slide, Wander, mirror, nearly_same, slide, wander
from kivel.core.looping.seam import Seam, judge_seam
from kivel.core.looping.signature import Signature, Thumbnail, signatures, thumbnail
from kivel.core.named_tuples import NamedTuple
from kivel.core.numbering import spans
from kivel.core.pixels.indexed import agreed_palette
from kivel.core.pixels.picture_light import PictureLight
from kivel.core.pixels.pixels import Size
from kivel.core.playback.clip import Clip
from kivel.core.survey import FrameSurvey, Side, identical_frames, strongest_alpha, survey_frame, union
from kivel.files.images import FrameSource
from kivel.files.manifest.model import Manifest, MapFile
from kivel.files.page_store import map_size, stored_state
from kivel.files.safety import OutputError, shown
from kivel.files.threads import in_order
from kivel.sequences.sequence import FrameSequence, straightened

if TYPE_CHECKING:
    from kivel.sequences.made_motion import MotionMade

__all__ = ["Inspection", "Motion", "PageCheck", "check_pages", "inspect_frames"]

PageState = Literal["as stated", "missing", "unreadable", "other size", "other pixels"]


class PageCheck(NamedTuple):
    """Whether a page's file is what its manifest says; `detail` says what was found instead."""

    file: str
    map: str
    size: Size
    state: PageState
    detail: str = ""


class Motion(NamedTuple):
    """How a sequence moves."""

    wander: Wander | None
    slide: Slide | None
    nearly_same: list[list[int]]
    mirror: Mirror | None
    seam: Seam

    def document(self) -> dict[str, Any]:
        return {
            "mass": self.wander._asdict() if self.wander else None,
            "slide": self.slide._asdict() if self.slide else None,
            "nearly_same": self.nearly_same,
            "mirror": self.mirror._asdict() if self.mirror else None,
            "seam": self.seam._asdict(),
        }


class Inspection(NamedTuple):
    """A sequence, looked at whole. Lengths of files and textures are in bytes.

    There are `signatures` of sequences of one size alone: others are collections, they do not move. `seams` say how
    each clip closes where the sequence is in parts.
    `vectors` are its map of motion, if it has one.
    """

    frames: FrameSequence
    surveys: tuple[FrameSurvey, ...]
    clips: tuple[Clip, ...]
    file_bytes: int
    texture_bytes: int
    signatures: tuple[Signature, ...] = ()
    seams: tuple[Seam | None, ...] = ()
    pages: tuple[PageCheck, ...] = ()
    vectors: MotionMade | None = None

    @property
    def sizes(self) -> list[tuple[Size, int]]:
        """Each size and how many frames have it, the commonest first."""
        return Counter(frame.size for frame in self.frames.frames).most_common()

    @property
    def modes(self) -> list[tuple[str, int]]:
        """Each way of storing and how many frames have it, the commonest first."""
        return Counter(frame.mode for frame in self.frames.frames).most_common()

    @property
    def light(self) -> PictureLight:
        """Return what the pixels of its frames are."""
        palettes = [frame.palette for frame in self.frames.frames]
        return PictureLight(
            depth=self.frames.depth,
            content=self.frames.content,
            premultiplied=self.frames.premultiplied,
            adds_light=any(survey.adds_light for survey in self.surveys),
            palette=agreed_palette(palettes),
            has_palettes=None not in palettes,
        )

    @property
    def numbers(self) -> list[int]:
        return [frame.number for frame in self.frames.frames if frame.number is not None]

    @property
    def reached(self) -> dict[Side, list[int]]:
        """The frames that reach each border of their canvas."""
        return {
            side: [number for number, survey in enumerate(self.surveys) if side in survey.reaches]
            for side in get_args(Side)
        }

    @property
    def stated_length(self) -> Fraction | None:
        """Seconds, when every frame's file states a duration."""
        durations = [frame.duration for frame in self.frames.frames]
        return sum((d for d in durations if d is not None), Fraction(0)) if None not in durations else None

    @property
    def looks_premultiplied(self) -> bool | None:
        """As a manifest states; else None when no frame has the partial alpha that would tell."""
        if self.frames.premultiplied:
            return True
        told = [survey.premultiplied for survey in self.surveys if survey.premultiplied is not None]
        return all(told) if told else None

    @property
    def motion(self) -> Motion | None:
        """How it moves; None for a single frame, or frames of several sizes."""
        if len(self.signatures) < 2:
            return None
        same = nearly_same(self.signatures)
        exact = [set(group) for group in identical_frames(self.surveys)]
        return Motion(
            wander([survey.mass for survey in self.surveys]),
            slide([survey.mass for survey in self.surveys], [survey.bounds for survey in self.surveys]),
            [group for group in same if not any(set(group) <= known for known in exact)],
            mirror(self.signatures),
            judge_seam(self.signatures),
        )

    def document(self) -> dict[str, Any]:
        """All of it for scripts."""
        bounds = union(survey.bounds for survey in self.surveys)
        numbers = self.numbers
        return {
            "name": self.frames.stem,
            "count": len(self.frames.frames),
            "first": min(numbers) if numbers else None,
            "last": max(numbers) if numbers else None,
            "gaps": [[gap.first, gap.last] for gap in self.frames.gaps],
            "sizes": [{"size": list(size), "frames": count} for size, count in self.sizes],
            "modes": [{"mode": mode, "frames": count} for mode, count in self.modes],
            "depth": self.frames.depth,
            "light": self.light.document(),
            "alpha": strongest_alpha(self.surveys),
            "premultiplied": self.looks_premultiplied,
            "bounds": list(bounds) if bounds else None,
            "reaches": {side: numbers for side, numbers in self.reached.items() if numbers},
            "empty": [number for number, survey in enumerate(self.surveys) if survey.bounds is None],
            "identical": identical_frames(self.surveys),
            "motion": self.motion.document() if self.motion else None,
            "length": None if self.stated_length is None else str(self.stated_length),
            "clips": [
                {
                    "name": clip.name,
                    "steps": len(clip.steps),
                    "timebase": str(clip.timebase),
                    "length": str(clip.length),
                    "direction": clip.direction,
                    "repeat": clip.repeat,
                    "phase": str(clip.phase),
                    "seam": seam and seam._asdict(),
                }
                for clip, seam in zip_longest(self.clips, self.seams)
            ],
            "groups": [
                {"name": group.name, "choose": group.choose, "members": list(group.members)}
                for group in self.frames.groups
            ],
            "file_bytes": self.file_bytes,
            "texture_bytes": self.texture_bytes,
            "pages": [page._asdict() | {"size": list(page.size)} for page in self.pages],
            "frames": [
                _frame_document(frame, survey) for frame, survey in zip(self.frames.frames, self.surveys, strict=True)
            ],
            "notes": list(self.frames.notes),
        }

    def gaps_text(self) -> str:
        return spans(self.frames.gaps) or "none"


def _frame_document(frame: FrameSource, survey: FrameSurvey) -> dict[str, Any]:
    return {
        "name": frame.name,
        "source": frame.source,
        "number": frame.number,
        "size": list(frame.size),
        "mode": frame.mode,
        "duration": None if frame.duration is None else str(frame.duration),
        "alpha": survey.alpha,
        "bounds": list(survey.bounds) if survey.bounds else None,
        "mass": list(survey.mass) if survey.mass else None,
        "digest": survey.digest,
    }


def inspect_frames(frames: FrameSequence, *, jobs: int, advance: Callable[[], None]) -> Inspection:
    """Look at every pixel of every frame, on `jobs` threads; `advance` is called after each frame."""
    surveys: list[FrameSurvey] = []
    thumbnails: list[Thumbnail] = []
    errors = AllErrors()

    def looked_at(frame: FrameSource) -> tuple[FrameSurvey, Thumbnail] | None:
        with errors.kept():
            return _looked_at(frame)
        return None

    for found in in_order(looked_at, straightened(frames).frames, jobs=jobs):
        if found:
            surveys.append(found[0])
            thumbnails.append(found[1])
        advance()
    errors.raise_any()
    files = {frame.path for frame in frames.frames}
    return Inspection(
        frames,
        tuple(surveys),
        frames.clips,
        file_bytes=sum(path.stat().st_size for path in files),
        texture_bytes=_texture_bytes(frames),
        signatures=tuple(signatures(thumbnails)) if len({frame.size for frame in frames.frames}) == 1 else (),
        seams=_seams(frames.clips, thumbnails) if frames.is_in_parts else (),
    )


def _seams(clips: tuple[Clip, ...], thumbnails: list[Thumbnail]) -> tuple[Seam | None, ...]:
    shown = [[thumbnails[step.frame] for step in clip.steps] for clip in clips]
    return tuple(judge_seam(signatures(each)) if len({one.size for one in each}) == 1 else None for each in shown)


def _looked_at(frame: FrameSource) -> tuple[FrameSurvey, Thumbnail]:
    image = frame.load()
    return survey_frame(image), thumbnail(image)


def _texture_bytes(frames: FrameSequence) -> int:
    """Memory uncompressed: a manifest's pages, or the frames themselves."""
    per_pixel = 4 * frames.depth // 8
    sizes = (
        [page.size for page in frames.described_by.pages] if frames.described_by else [f.size for f in frames.frames]
    )
    return sum(size[0] * size[1] for size in sizes) * per_pixel


def check_pages(manifest: Manifest, path: Path, *, max_pixels: int) -> tuple[PageCheck, ...]:
    """Compare every map of every page with what the manifest says of it."""
    checks: list[PageCheck] = []
    for page in manifest.pages:
        for name, file in page.maps.items():
            size = map_size(page, file)
            state, detail = _page_state(path.parent, file, size, max_pixels)
            checks.append(PageCheck(file.file, name, size, state, detail))
    return tuple(checks)


def _page_state(folder: Path, file: MapFile, size: Size, max_pixels: int) -> tuple[PageState, str]:
    if not (folder / file.file).exists():
        return "missing", f"{shown(folder / file.file)} not found; run the command that made it again"
    try:
        found, digest = stored_state(folder, file, max_pixels=max_pixels)
        if found != size:
            return "other size", f"the file has {found} px"
        if digest != file.digest:
            return "other pixels", "the image was changed since the manifest was written"
    except OutputError as error:
        return "unreadable", str(error)
    except KivelError as error:
        return "unreadable", error.message
    return "as stated", ""
