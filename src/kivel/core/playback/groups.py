"""Groups of clips."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from fnmatch import fnmatchcase
from typing import Any, Literal, NamedTuple

from kivel.core.errors import UsageError
from kivel.core.playback.clip import Clip

__all__ = ["Choose", "Group", "GroupRequest", "chosen_clips", "listed_clips", "with_groups"]

Choose = Literal["all", "random"]


@dataclass(frozen=True)
class Group:
    """Clips that are used together, or of which each instance draws one."""

    name: str
    members: tuple[str, ...]
    choose: Choose = "all"
    extra: dict[str, Any] = field(default_factory=dict)


class GroupRequest(NamedTuple):
    """A group of all clips whose names match a pattern."""

    name: str
    pattern: str
    choose: Choose = "all"


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


def with_groups(groups: Iterable[Group], clips: Sequence[Clip], requests: Iterable[GroupRequest]) -> tuple[Group, ...]:
    """These groups of clips too; one of the same name is replaced.

    Raises
    ------
    UsageError
        If no clip belongs to one.
    """
    found = {group.name: group for group in groups}
    for request in requests:
        members = tuple(clip.name for clip in clips if fnmatchcase(clip.name, request.pattern))
        if not members:
            raise UsageError(
                f'group "{request.name}" would be of no clip: none is called {request.pattern!r}; {listed_clips(clips)}'
            )
        old = found.get(request.name)
        found[request.name] = Group(request.name, members, request.choose, old.extra if old else {})
    return tuple(found.values())


def listed_clips(clips: Sequence[Clip]) -> str:
    """Which clips there are, for messages."""
    return f"clips: {', '.join(clip.name for clip in clips)}" if clips else "there are no clips"
