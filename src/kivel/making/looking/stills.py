"""Stills of frames: a contact sheet, a timing chart."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache
from typing import TYPE_CHECKING

from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.pixels import Pixels
from kivel.core.playback.clip import Clip
from kivel.views.contact_sheet import draw_contact_sheet
from kivel.views.timing_chart import draw_timing

if TYPE_CHECKING:
    from kivel.files.images import FrameSource
    from kivel.making.options.preview_options import PreviewOptions
    from kivel.making.work import Work
    from kivel.sequences.sequence import FrameSequence

__all__ = ["ContactSheet", "contact_sheet_of", "timing_chart_of"]


class ContactSheet(NamedTuple):
    """A picture of the frames with these numbers."""

    image: Pixels
    numbers: Sequence[int]


def contact_sheet_of(options: PreviewOptions, work: Work, sequence: FrameSequence, clip: Clip) -> ContactSheet:
    """Every frame in order; of a clip that was chosen, those that it shows, in the order in which they come."""
    numbers = list(dict.fromkeys(step.frame for step in clip.steps)) if options.clip else range(len(sequence.frames))
    with work.progress("reading frames", len(numbers)) as advance:

        def watched(frame: FrameSource) -> FrameSource:
            def load() -> Pixels:
                pixels = frame.load()
                advance()
                return pixels

            return frame._replace(load=load)

        sheet = draw_contact_sheet(
            [watched(frame) for frame in sequence.frames],
            clip,
            numbers=numbers,
            scale=options.scale,
            filtering=options.filter,
            backdrop=options.backdrop,
            marks=options.marks(),
            jobs=options.threads,
        )
    return ContactSheet(sheet, numbers)


def timing_chart_of(sequence: FrameSequence, clips: Sequence[Clip]) -> Pixels:
    """Each clip's steps to scale."""
    return draw_timing(sequence.stem, clips, cache(lambda index: sequence.frames[index].load()))
