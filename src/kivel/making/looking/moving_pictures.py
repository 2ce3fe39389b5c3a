"""A clip as pictures one after the other: an animated image, or a video."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from fractions import Fraction
from functools import partial
from itertools import chain, repeat
from typing import TYPE_CHECKING

from kivel.core.errors import UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.compose import scaled_size
from kivel.core.playback.following import Chain
from kivel.core.playback.notation import format_seconds
from kivel.core.playback.schedule import schedule
from kivel.core.room import require_room
from kivel.core.wording import counted
from kivel.files.threads import in_order
from kivel.sequences.between_frames import motion_for
from kivel.views.looks import Look, default_scale
from kivel.views.pictures import pictures, shown_picture

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from kivel.core.pixels.pixels import Size
    from kivel.core.playback.clip import Clip
    from kivel.core.playback.schedule import Picture, Schedule
    from kivel.making.options.preview_options import PreviewOptions
    from kivel.making.work import Work
    from kivel.sequences.sequence import FrameSequence

__all__ = ["MovingPictures", "encoded_as_video", "moving_pictures"]

_BLENDS = 30
"""Pictures a second that show a clip whose frames blend."""
_MOST_SHOTS = 200_000


class MovingPictures(NamedTuple):
    """Holds what is to be drawn: `plan` says which picture shows when, `draw` gives one of them, all of one size."""

    plan: Schedule
    draw: Callable[[Picture], NDArray[np.uint8]]
    size: Size
    described: str

    def all_drawn(self, options: PreviewOptions, work: Work) -> list[NDArray[np.uint8]]:
        """Return the picture of each shot, all at once; those that show several times are drawn once."""
        wanted = pictures(self.plan)
        require_room(
            *self.size, frames=len(wanted), what="the preview would have", todo=f"make {option('scale')} smaller, or"
        )
        with work.progress("reading frames", len(wanted)) as advance:
            shown = {}
            for picture, image in zip(wanted, in_order(self.draw, wanted, jobs=options.threads), strict=True):
                shown[picture] = image
                advance()
        return [shown[shot.picture] for shot in self.plan.shots]


def moving_pictures(options: PreviewOptions, work: Work, sequence: FrameSequence, clips: list[Clip]) -> MovingPictures:
    """Plan what a clip, and those that follow it, show."""
    scale = options.scale or default_scale(sequence.frames[0].size)
    look = Look(scale, options.filter or "nearest", options.backdrop)
    clip = clips[0]
    plan = schedule(clip, blends=Fraction(_BLENDS), others=clips)
    chained = Chain(clip, clips)
    if chained.length is None and len(chained.players) > 1 and not chained.is_circle:
        last = chained.players[-1].clip.name
        work.note(f'{_form(options)} cannot loop only its end: after one cycle of "{last}" everything starts over')
    motion = motion_for(clip, sequence.maps)
    draw = partial(
        shown_picture,
        frames=sequence.frames,
        look=look,
        show=options.show,
        marks=options.marks(),
        motion=motion,
        fade=options.fade,
    )
    size = scaled_size(sequence.frames[0].size, look.scale)
    text = f'clip "{clip.name}": {counted(len(clip.order()), "step")}, {format_seconds(clip.length)}, {size} px'
    if clip.blends:
        text += f", {'warped' if motion else 'blended'} at {_BLENDS} pictures a second or more"
    return MovingPictures(plan, draw, size, text)


def _form(options: PreviewOptions) -> str:
    return "a video" if options.is_video else "an animated image"


def encoded_as_video(options: PreviewOptions, work: Work, moving: MovingPictures) -> bytes:
    """Return a video of all cycles, drawn while it is written, in little memory."""
    from kivel.files.video.writing import encode_video, video_times

    plan = moving.plan
    cycles = 1 if plan.repeat == "forever" else max(1, plan.repeat)
    if len(plan.shots) * cycles > _MOST_SHOTS:
        raise UsageError(
            f"the video would have more than {_MOST_SHOTS:,} pictures; choose a smaller {option('repeat')}"
        )
    shots = list(chain.from_iterable(repeat(plan.shots, cycles)))
    times = video_times(options.suffix, [shot.seconds for shot in shots])
    work.note(*times.notes, *_video_notes(moving))
    if plan.repeat == "forever":
        work.note(f"a video does not loop by itself: it has one cycle; {option('repeat', 4)} writes four")
    shown = [shot.picture for shot, ticks in zip(shots, times.ticks, strict=True) if ticks]

    def drawn() -> Iterator[NDArray[np.uint8]]:
        with work.progress("encoding pictures", len(shown)) as advance:
            for image in in_order(moving.draw, shown, jobs=options.threads):
                yield image
                advance()

    return encode_video(options.suffix, drawn(), times, moving.size)


def _video_notes(moving: MovingPictures) -> list[str]:
    """List what a video cannot keep."""
    width, height = moving.size
    notes = ["a video is for looking at: colours are compressed, and stored at half the width and height (4:2:0)"]
    if width % 2 or height % 2:
        notes.append(f"{moving.size} px: video needs even sizes; the last column or row is doubled")
    return notes
