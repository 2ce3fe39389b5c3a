"""Describes what became of frames since something was set about them: an edit for each, and how they are noted."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Sequence
from fractions import Fraction
from typing import Literal

from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.clip import Clip
from kivel.core.playback.reconciling import FramesNow, Joined, Reconciled
from kivel.core.wording import counted, first_few
from kivel.sequences.reconciling.same_frames import Seen

__all__ = ["EditKind", "FrameEdit", "edit_notes", "frame_edits"]

EditKind = Literal["added", "removed", "renamed", "repainted", "resized", "moved"]

_MOST_TOLD = 3
"""More edits of a kind are counted."""


class FrameEdit(NamedTuple):
    """One change to the frames: what was done to which.

    `was` is what a renamed frame was called. `clips` are those that an added frame joined, or a removed one was in;
    `after` is the frame before it and `hold` how long it shows, in seconds.
    """

    kind: EditKind
    frame: str
    was: str | None = None
    clips: tuple[str, ...] = ()
    after: str | None = None
    hold: Fraction | None = None


def frame_edits(
    old: Sequence[Seen], new: Sequence[Seen], frames: FramesNow, clips: Sequence[Clip], found: Reconciled
) -> tuple[FrameEdit, ...]:
    """The edits that lead from the frames of before, with these clips, to those of now."""
    edits = []
    kept = [before for before in frames.was if before is not None]
    for place, before in enumerate(frames.was):
        name = frames.now[place]
        if before is None:
            edits.append(_added(name, found.joined.get(place, ()), frames))
            continue
        if frames.before[before] != name:
            edits.append(FrameEdit("renamed", name, was=frames.before[before]))
        if old[before].size != new[place].size:
            edits.append(FrameEdit("resized", name))
        elif "" != old[before].digest != new[place].digest != "":
            edits.append(FrameEdit("repainted", name))
    edits += [FrameEdit("moved", frames.now[place]) for place in _moved(frames.was)]
    gone = sorted(set(range(len(frames.before))) - set(kept))
    edits += [
        FrameEdit("removed", frames.before[n], clips=tuple(one.name for one in clips if n in one.shown_frames))
        for n in gone
    ]
    return tuple(edits)


def _added(name: str, joined: Sequence[Joined], frames: FramesNow) -> FrameEdit:
    shown = [one for one in joined if one.hold is not None]
    clips = tuple(one.clip for one in shown)
    if not shown:
        return FrameEdit("added", name)
    after = None if shown[0].after is None else frames.now[shown[0].after]
    return FrameEdit("added", name, clips=clips, after=after, hold=shown[0].hold)


def _moved(was: Sequence[int | None]) -> list[int]:
    """The places of those that are not in the longest run which is still in its order.

    By patience sorting (Fredman 1975, "On computing the length of longest increasing subsequences").
    """
    known = [(place, before) for place, before in enumerate(was) if before is not None]
    tops: list[int] = []
    ends: list[int] = []
    earlier: dict[int, int | None] = {}
    for place, before in known:
        pile = bisect_left(tops, before)
        earlier[place] = ends[pile - 1] if pile else None
        tops[pile : pile + 1] = [before]
        ends[pile : pile + 1] = [place]
    stay = set()
    at = ends[-1] if ends else None
    while at is not None:
        stay.add(at)
        at = earlier[at]
    return [place for place, _ in known if place not in stay]


def edit_notes(where: str, edits: Sequence[FrameEdit]) -> list[str]:
    """A note for each edit, or one for all of a kind where they are many."""
    notes = []
    for kind, said in _SAID.items():
        found = [edit for edit in edits if edit.kind == kind]
        if 0 < len(found) <= _MOST_TOLD:
            notes += [f"{where}: {kind} {said(edit)}" for edit in found]
        elif found:
            names = first_few([edit.frame for edit in found])
            notes.append(f"{where}: {kind} {counted(len(found), 'frame')}{_in_all(found)}: {names}")
    return notes


def _in_all(edits: Sequence[FrameEdit]) -> str:
    """The clips that many edits are in."""
    clips = list(dict.fromkeys(name for edit in edits for name in edit.clips))
    word = "from" if edits[0].kind == "removed" else "to"
    return f" {word} {_clips(clips)}" if clips else (", in no clip" if edits[0].kind == "added" else "")


def _clips(names: Sequence[str]) -> str:
    listed = first_few([f'"{name}"' for name in names])
    return f"clip {listed}" if len(names) == 1 else f"clips {listed}"


def _said_added(edit: FrameEdit) -> str:
    if edit.hold is None:
        return f"{edit.frame}: in no clip"
    place = "first" if edit.after is None else f"after {edit.after}"
    return f"{edit.frame} to {_clips(edit.clips)}, {place}, hold {_milliseconds(edit.hold)}"


def _milliseconds(seconds: Fraction) -> str:
    return f"{float(1000 * seconds):.4g} ms"


_SAID: dict[EditKind, Callable[[FrameEdit], str]] = {
    "added": _said_added,
    "removed": lambda edit: edit.frame + (f" from {_clips(edit.clips)}" if edit.clips else ""),
    "renamed": lambda edit: f"{edit.was} to {edit.frame}",
    "repainted": lambda edit: edit.frame,
    "resized": lambda edit: edit.frame,
    "moved": lambda edit: edit.frame,
}
