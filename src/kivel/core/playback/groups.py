"""Groups of clips."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import field, replace
from fnmatch import fnmatchcase
from typing import Any

from kivel.core.errors import UsageError
from kivel.core.fields import Count, described
from kivel.core.named_tuples import NamedTuple
from kivel.core.option_words import Choose
from kivel.core.playback.clip import Clip
from kivel.core.records import record

__all__ = ["Group", "GroupRequest", "chosen_clips", "groups_of", "listed_clips", "with_groups"]


@record
class Group:
    """Clips that are used together, or of which each instance picks one."""

    name: str
    members: tuple[str, ...]
    choose: Choose = "all"
    weights: tuple[Count, ...] | None = described(
        "Chance of each member, against the others; absent: all equal.", default=None
    )
    set: tuple[str, ...] | None = described(
        "The options that were set since the manifest was made; absent: none.", default=None
    )
    extra: dict[str, Any] = field(default_factory=dict)

    def weighted(self) -> list[tuple[str, int]]:
        """Each member with its chance against the others."""
        return list(zip(self.members, self.weights or (1,) * len(self.members), strict=True))

    def renamed(self, names: Mapping[str, str]) -> Group:
        """The same group where clips have new names; members that have none in `names` are left out."""
        kept = [place for place, member in enumerate(self.members) if member in names]
        weights = self.weights and tuple(self.weights[place] for place in kept)
        return replace(self, members=tuple(names[self.members[place]] for place in kept), weights=weights)


def groups_of(groups: Iterable[Group], clips: Iterable[Clip]) -> tuple[Group, ...]:
    """The groups of some clips, with those members alone; one of none is left out."""
    names = {clip.name: clip.name for clip in clips}
    kept = (group.renamed(names) for group in groups)
    return tuple(group for group in kept if group.members and any(group.weights or (1,)))


class GroupRequest(NamedTuple):
    """A group of all clips whose names match a pattern; `weights` are of those that match theirs, else 1."""

    name: str
    pattern: str
    choose: Choose = "all"
    weights: tuple[tuple[str, int], ...] = ()


def chosen_clips(clips: Sequence[Clip], patterns: Sequence[str]) -> list[Clip]:
    """The clips whose names match any of the shell-style patterns, in their order; all, without patterns.

    Raises
    ------
    UsageError
        If a pattern matches none.
    """
    for pattern in patterns:
        if not any(fnmatchcase(clip.name, pattern) for clip in clips):
            raise UsageError(f"there is no clip {pattern!r}; {listed_clips(clips)}")
    return [clip for clip in clips if not patterns or any(fnmatchcase(clip.name, each) for each in patterns)]


def with_groups(
    groups: Iterable[Group],
    clips: Sequence[Clip],
    requests: Iterable[GroupRequest],
    *,
    set: tuple[str, ...] | None = None,
) -> tuple[Group, ...]:
    """These groups of clips too, one of the same name replaced; `set` is what they say of themselves.

    Raises
    ------
    UsageError
        If no clip belongs to one, a weight is of none, or all are 0.
    """
    found = {group.name: group for group in groups}
    for request in requests:
        members = tuple(clip.name for clip in clips if fnmatchcase(clip.name, request.pattern))
        if not members:
            raise UsageError(
                f'group "{request.name}" would be empty: no clip is called {request.pattern!r}; {listed_clips(clips)}'
            )
        old = found.get(request.name)
        weights = _weights(request, members) if request.weights else None
        found[request.name] = Group(request.name, members, request.choose, weights, set, old.extra if old else {})
    return tuple(found.values())


def _weights(request: GroupRequest, members: Sequence[str]) -> tuple[int, ...]:
    for pattern, _ in request.weights:
        if not any(fnmatchcase(member, pattern) for member in members):
            raise UsageError(f'group "{request.name}": it has no clip {pattern!r}; its clips: {", ".join(members)}')
    found = [[weight for pattern, weight in request.weights if fnmatchcase(member, pattern)] for member in members]
    weights = tuple(each[-1] if each else 1 for each in found)
    if not any(weights):
        raise UsageError(f'group "{request.name}": every weight is 0, so no clip would ever be picked')
    return weights


def listed_clips(clips: Sequence[Clip]) -> str:
    """Which clips there are, for messages."""
    return f"clips: {', '.join(clip.name for clip in clips)}" if clips else "there are no clips"
