"""Play in the terminal, at the exact timing: space pauses, arrows step, + and - change the speed, q quits."""

from __future__ import annotations

from fractions import Fraction
from typing import TYPE_CHECKING

from kivel.core.named_tuples import NamedTuple
from kivel.making.options.clip_options import TimingOptions
from kivel.making.options.option import Option
from kivel.making.options.source_options import ChoosingOptions, MatchingOptions, ShowOptions
from kivel.making.options.value_kinds import BACKDROP, RATE

if TYPE_CHECKING:
    from kivel.core.compose import Backdrop
    from kivel.core.playback.clip import Clip
    from kivel.making.work import Work
    from kivel.sequences.sequence import FrameSequence

__all__ = ["PlayMade", "PlayOptions", "make_play"]


class PlayOptions(MatchingOptions, ChoosingOptions, ShowOptions, TimingOptions):
    """What plays, and how it looks."""

    title = "look"
    clip = ChoosingOptions.clip.but(
        help="which clip of a manifest comes first, by name or pattern", shown="the first", group="look"
    )
    backdrop: Option[Backdrop] = Option(
        BACKDROP, "what transparent pixels show", default="none", shown="none, the terminal's own ground"
    )
    speed: Option[Fraction] = Option(RATE, "to begin with: 2, 1/2", default=Fraction(1), form="N")


class PlayMade(NamedTuple):
    """Frames ready to play, and their clips, the one that comes first in front."""

    sequence: FrameSequence
    clips: list[Clip]


def make_play(options: PlayOptions, work: Work) -> PlayMade:
    """Open what is to play.

    Raises
    ------
    KivelError
        What the options or the sources do not allow.
    """
    from kivel.core.playback.groups import chosen_clips
    from kivel.sequences.clips import clips_for
    from kivel.sequences.matching import matched
    from kivel.sequences.opening import open_sources
    from kivel.sequences.sequence import shown_as, straightened

    sequence = shown_as(straightened(open_sources(options.sources, options.shown_settings(work))), options.show)
    if sequence.origin is None:
        sequence = matched(sequence, odd_size=options.odd_size, align=options.align)
    work.note(*sequence.notes)
    clips = list(clips_for(sequence, lambda _name: options.timing()))
    first = clips.index(chosen_clips(clips, options.clip)[0]) if options.clip else 0
    return PlayMade(sequence, clips[first:] + clips[:first])
