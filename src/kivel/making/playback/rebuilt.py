"""Making something again: what was set since on its clips, groups and pivots stays, or is refused where it cannot."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from kivel.core.errors import NEW_LINE, KivelError, option
from kivel.core.named_tuples import NamedTuple
from kivel.core.wording import counted
from kivel.files.documents import json_table
from kivel.files.images import FrameSource
from kivel.files.manifest.model import FramePlace, Manifest
from kivel.files.manifest.names import is_manifest_name, manifest_beside
from kivel.files.manifest.parsing import edited_since_written, read_manifest
from kivel.files.manifest.text import is_as_made
from kivel.files.safety import file_bytes, shown
from kivel.making.options.groups.clip_options import ChangeOptions
from kivel.making.options.groups.output_options import RebuildOptions
from kivel.making.playback.manifests import relative_to
from kivel.making.work import Work
from kivel.sequences.clips import ClipSet, warped_or_faded
from kivel.sequences.map_frames import MapFrames
from kivel.sequences.placed import motion_of_manifest

if TYPE_CHECKING:
    from kivel.sequences.reconciling.same_frames import Seen

__all__ = ["RebuildError", "Rebuilt", "rebuilt_at"]


_MOST_BYTES = 64 << 20


class RebuildError(KivelError):
    """Settings made since then do not fit what is made now."""


class _Before(NamedTuple):
    """The older manifest, where it is, and whether it was edited by hand."""

    path: Path
    manifest: Manifest
    edited: bool


class Rebuilt:
    """Holds what an older manifest of the same name, if there is one, has to say to what is made now."""

    def __init__(self, options: RebuildOptions, work: Work, before: _Before | None) -> None:
        self._options = options
        self._work = work
        self._before = before
        self._removed: tuple[str, ...] = ()
        self._was: tuple[int | None, ...] = ()

    def watched(self, map: MapFrames) -> tuple[MapFrames, Callable[[Sequence[FrameSource]], list[Seen]]]:
        """A map whose frames' digests are taken as they are read, and what gives them, if anybody will ask for them."""
        if self._before is None:
            return map, lambda _frames: []
        from kivel.making.playback.frames_before import WatchedFrames  # few things are made again in which much is set

        watched = WatchedFrames(map)
        return watched.map, watched.seen

    def clips(
        self,
        found: ClipSet,
        frames: Sequence[Seen],
        *,
        names: Sequence[str] = (),
        called: Callable[[FramePlace], str] = lambda frame: frame.name,
    ) -> ClipSet:
        """The clips and groups that are made now, of these frames, with what was set on the older ones.

        Where frames are `called` by something else than their names, these are `names`.

        Raises
        ------
        RebuildError
            If what was set does not fit any more.
        """
        if self._before is None:
            return found
        from kivel.making.playback.frames_before import matched_frames

        self._was = matched_frames(
            self._before.manifest, self._before.path, frames,
            called=called, max_pixels=self._options.pixel_limit, jobs=self._options.threads,
        )  # fmt: skip
        if self._options.retimes:
            return found  # what is kept is known when clips are changed: see `manifest`
        return self._kept(self._before, found, names or [one.name for one in frames], self._stated(), self._reset())

    def _kept(
        self,
        before: _Before,
        found: ClipSet,
        names: Sequence[str],
        stated: Callable[[str], Collection[str]],
        made_anew: Collection[str],
    ) -> ClipSet:
        from kivel.core.playback.rebuilding import MadeClips, rebuilt_clips

        old = before.manifest
        kept = rebuilt_clips(
            MadeClips([frame.name for frame in old.frames], old.clips, old.groups, old.removed or ()),
            MadeClips(names, found.clips, found.groups),
            self._was,
            stated=stated,
            made_anew=made_anew,
            edited=before.edited,
        )
        if self._options.fresh_clips:
            gone = [clip.name for clip in old.clips if clip.set]
            if gone:
                self._work.note(f"reset, without earlier settings: clips {', '.join(gone)}")
            return found
        if kept.unfit:
            lines = [
                f"settings made since then no longer fit; pass {option('fresh-clips', True)} to discard them, "
                "or change the frames back:",
                *(f"  {line}" for line in kept.unfit),
            ]
            raise RebuildError(NEW_LINE.join(lines), where=shown(before.path))
        self._work.note(*kept.notes)
        self._removed = kept.removed
        return found._replace(clips=kept.clips, groups=kept.groups)

    def manifest(self, manifest: Manifest) -> Manifest:
        """The manifest that is made now, with the pivots that were set and the keys that this version does not know.

        Clips that were to be warped, and that the motion that is there does not serve, are faded.

        Raises
        ------
        UsageError
            If one is to be warped by an option.
        """
        if self._before:
            manifest = self._with_what_was_set(self._before, manifest)
        else:
            manifest = _retimed(manifest, self._options, self._work)
        return _warped_or_faded(manifest, self._options, self._work)

    def _with_what_was_set(self, before: _Before, manifest: Manifest) -> Manifest:
        if self._options.retimes:
            known = _names(manifest)
            manifest = _retimed(manifest, self._options, self._work)
            added = [name for name in _names(manifest) if name not in known]
            stated, changed = self._stated(), {clip.name: clip.set or () for clip in manifest.clips}
            clips = self._kept(
                before,
                ClipSet(manifest.clips, manifest.groups),
                [frame.name for frame in manifest.frames],
                lambda clip: {*stated(clip), *changed.get(clip, ())},
                [*self._reset(), *added],
            )
            self._removed = tuple(dict.fromkeys((*self._removed, *(manifest.removed or ()))))
            manifest = replace(manifest, clips=clips.clips, groups=clips.groups)
        old = [None if number is None else before.manifest.frames[number] for number in self._was]
        frames = tuple(
            self._frame(frame, was, edited=before.edited) for frame, was in zip(manifest.frames, old, strict=True)
        )
        kept = sum(frame.set is not None for frame in frames)
        if kept:
            self._work.note(f"{counted(kept, 'pivot')} kept as set")
        extra = {**before.manifest.extra, **manifest.extra}
        return replace(manifest, frames=frames, removed=self._removed or None, extra=extra)

    def _frame(self, frame: FramePlace, old: FramePlace | None, *, edited: bool) -> FramePlace:
        if old is None:
            return frame
        frame = replace(frame, extra={**old.extra, **frame.extra})
        is_set = "pivot" in (old.set or ()) or (edited and old.pivot != frame.pivot)
        if not is_set or self._options.fresh_clips or self._is_new("pivot"):
            return frame
        return replace(frame, pivot=old.pivot, set=("pivot",))

    def _is_new(self, name: str) -> bool:
        """Whether an option is stated now, and was not stated so before."""
        if not self._options.given(name):
            return False
        if self._options.door == "recipe":
            return True  # it is stated for every time
        return self._made_before().get(name) != self._stored().get(name)

    def _made_before(self) -> Mapping[str, Any]:
        """The options that the older one was made by."""
        made = self._before and self._before.manifest.made
        return made.options if made else {}

    def _stored(self) -> dict[str, Any]:
        """The options that are given now, as a manifest beside the older one keeps them."""
        return self._options.made(relative_to(self._before.path.parent)) if self._before else {}

    def _stated(self) -> Callable[[str], Collection[str]]:
        options = self._options
        if not isinstance(options, ChangeOptions) or options.says_nothing:
            return lambda _clip: ()
        from kivel.core.playback.changes import ClipChanges, set_by

        # a later setting wins over an earlier option
        names = [name for name in type(options).declared() if self._is_new(name)]
        changes = ClipChanges(options.changes_by(names))
        return lambda clip: set_by(changes.of(clip))

    def _reset(self) -> list[str]:
        """The clips and groups that are asked for now, and were not before."""
        found: list[str] = []
        for name in ("make-clip", "make-group", "row-clips"):
            if not self._is_new(name):
                continue
            before = [] if self._options.door == "recipe" else self._made_before().get(name, [])
            found += [str(each).partition("=")[0] for each in self._stored()[name] if each not in before]
        return found


def _warped_or_faded(manifest: Manifest, options: RebuildOptions, work: Work) -> Manifest:
    if not any(clip.interpolation == "motion" for clip in manifest.clips):
        return manifest

    motion, asked = motion_of_manifest(manifest), options.changes() if isinstance(options, ChangeOptions) else None
    clips = []
    for clip in manifest.clips:
        by_option = asked is not None and asked.of(clip.name).interpolation == "motion"
        found, notes = warped_or_faded(clip, motion, asked=by_option)
        work.note(*notes)
        clips.append(found)
    return replace(manifest, clips=tuple(clips))


def _names(manifest: Manifest) -> list[str]:
    return [*(clip.name for clip in manifest.clips), *(group.name for group in manifest.groups)]


def _retimed(manifest: Manifest, options: RebuildOptions, work: Work) -> Manifest:
    """With the changes that a recipe states for its clips, in their order."""
    if options.retimes:
        from kivel.making.playback.retimed_clips import retimed

        for one in options.retimes:
            result = retimed(manifest, one.request())
            work.note(*result.notes)
            manifest = result.manifest
    return manifest


def rebuilt_at(options: RebuildOptions, work: Work, target: Path | None, command: str) -> Rebuilt:
    """Return what the manifest beside a page, or a manifest itself, has to say to what a command makes in its place."""
    path = target and (target if is_manifest_name(target) else manifest_beside(target))
    before = None
    if path and path.is_file():
        before = _before(path, command)
        work.note(*([] if work.is_again else _otherwise(options, path, command)))
    if before and before.edited and not options.values.get("force"):
        raise RebuildError(
            f"was edited by hand; pass {option('force', True)} to replace it: settings of clips and pivots "
            "are kept, other edits are lost",
            where=shown(before.path),
        )
    return Rebuilt(options, work, before)


def _otherwise(options: RebuildOptions, path: Path, command: str) -> list[str]:
    """Return what is stated otherwise than when the older manifest was made, by the same command; a recipe alone
    speaks.
    """
    try:
        made = json_table(file_bytes(path, most=_MOST_BYTES)).get("made")
    except KivelError:
        return []
    if options.door == "recipe" or not isinstance(made, dict) or made.get("command") != command:
        return []
    then, now = made.get("options"), options.made(relative_to(path.parent))
    if not isinstance(then, dict) or then == now:
        return []
    declared = options.declared()
    changed = [name for name in declared if name in then and then[name] != now.get(name)]
    added = [name for name in declared if name in now and name not in then]
    places = {name for name, one in declared.items() if one.positional}
    parts = [f"with {_options(then, changed, places)}"] if changed else []
    parts += [f"without {_options(now, added, places)}"] if added else []
    return [f"{shown(path)}: last time it was made {', '.join(parts)}"] if parts else []


def _options(given: Mapping[str, Any], names: Sequence[str], places: Collection[str]) -> str:
    """As they are written: those of `places` have no names."""
    values = {name: given[name] if isinstance(given[name], list) else [given[name]] for name in names}
    return " ".join(
        str(value) if name in places else option(name, value if isinstance(value, (bool, int, float)) else str(value))
        for name, several in values.items()
        for value in several
    )


def _before(path: Path, command: str) -> _Before | None:
    """The manifest that a command of this name made, unless there is nothing in it to keep."""
    if _is_as_made(path):
        return None
    try:
        old = read_manifest(path)
    except KivelError:
        return None  # it is refused, or replaced as any other file is
    return None if old.made and old.made.command != command else _Before(path, old, edited_since_written(path))


def _is_as_made(path: Path) -> bool:
    """Whether there is nothing to keep: as it mostly is, and then its models need not be loaded."""
    try:
        return is_as_made(file_bytes(path, most=_MOST_BYTES))
    except KivelError:
        return False  # it will be refused, with the reason
