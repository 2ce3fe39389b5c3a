"""Describes what plays in a terminal, and at which times."""

from __future__ import annotations

from typing import TYPE_CHECKING

from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.groups import chosen_clips
from kivel.making.options.play_options import PlayOptions
from kivel.sequences.clips import clips_for
from kivel.sequences.matching import matched
from kivel.sequences.opening import open_sources
from kivel.sequences.sequence import shown_as, straightened

if TYPE_CHECKING:
    from kivel.core.playback.clip import Clip
    from kivel.making.work import Work
    from kivel.sequences.sequence import FrameSequence

__all__ = ["PlayMade", "make_play"]


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
    sequence = shown_as(straightened(open_sources(options.sources, options.shown_settings(work))), options.show)
    if sequence.described_by is None:
        sequence = matched(sequence, odd_size=options.odd_size, align=options.align)
    work.hear(sequence)
    clips = list(clips_for(sequence, lambda _name: options.timing()))
    first = clips.index(chosen_clips(clips, options.clip)[0]) if options.clip else 0
    return PlayMade(sequence, clips[first:] + clips[:first])
