"""Traces: rows of which frame shows when."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

from kivel.core.errors import UsageError, option
from kivel.core.named_tuples import NamedTuple
from kivel.core.playback.groups import chosen_clips
from kivel.core.playback.instances import instances_of
from kivel.files.manifest.parsing import read_manifest
from kivel.files.ownership import manifest_for
from kivel.making.options.timeline_options import TimelineOptions
from kivel.views import timeline_rows

if TYPE_CHECKING:
    from kivel.core.playback.instances import Instance
    from kivel.files.manifest.model import Manifest
    from kivel.making.work import Work
    from kivel.views.rows import Column

__all__ = ["TimelineMade", "make_timeline"]

_MOST_ROWS = 250_000
"""An hour at sixty a second, and a little more."""


class TimelineMade(NamedTuple):
    """Rows of which frame shows when, found as they are taken, the columns to show of them, and what is to be said of
    all.

    A row has exact times in seconds (`time`), and what happens or shows by the names of the columns.
    """

    columns: tuple[Column, ...]
    rows: Iterator[dict[str, Any]]
    notes: tuple[str, ...]


def make_timeline(options: TimelineOptions, work: Work, *, advance: Callable[[], bool] = lambda: True) -> TimelineMade:
    """List what clips show over time.

    Parameters
    ----------
    advance : callable
        Asked before each further step under `manual`; False ends it.

    Raises
    ------
    KivelError
        What the options or the manifest do not allow.
    """
    instances = _instances(options, read_manifest(manifest_for(Path(options.manifest))))
    columns: tuple[Column, ...] = timeline_rows.HAPPENINGS
    if options.manual:
        if len(instances) > 1:
            names = ", ".join(dict.fromkeys(each.clip.name for each in instances))
            raise UsageError(f"{option('manual', True)} plays one clip; choose it with {option('clip')}: {names}")
        rows = timeline_rows.rows_by_hand(instances[0], advance)
    elif options.at:
        columns, rows = timeline_rows.MOMENTS, timeline_rows.moment_rows(instances, sorted(options.at))
    elif options.clock:
        columns, rows = timeline_rows.RENDERED, timeline_rows.rendered_rows(instances, options.clock, options.for_)
        work.note(*timeline_rows.clock_lines(instances, options.clock))
    else:
        rows = timeline_rows.happening_rows(instances, options.for_)
    if not options.manual:
        rows = _bounded(rows)
    return TimelineMade(tuple(timeline_rows.columns_for(columns, instances)), rows, tuple(work.notes))


def _bounded(rows: Iterator[dict[str, Any]]) -> Iterator[dict[str, Any]]:
    """The rows as they come, as long as somebody can mean to have them."""
    for number, row in enumerate(rows):
        if number == _MOST_ROWS:
            raise UsageError(f"there are more than {_MOST_ROWS:,} rows; choose less time or a slower clock")
        yield row


def _instances(options: TimelineOptions, manifest: Manifest) -> list[Instance]:
    pick, weights = None, None
    if options.group:
        group = next((group for group in manifest.groups if group.name == options.group), None)
        if group is None:
            names = ", ".join(group.name for group in manifest.groups)
            known = f"groups: {names}" if names else "there are none"
            raise UsageError(f"there is no group {options.group!r}; {known}")
        clips = [clip for name in group.members for clip in manifest.clips if clip.name == name]
        pick, weights = (group.name, group.weights) if group.choose == "random" else (None, None)
    else:
        clips = chosen_clips(manifest.clips, options.clip)
    if not clips:
        todo = f"{option('new', 'NAME')} {option('order', '0-7')}"
        raise UsageError(f"{options.manifest} has no clips; make one with kivel retime {todo}")
    if options.leave_at is not None and not any(clip.then is not None for clip in clips):
        raise UsageError(f"{option('leave-at')} needs a clip with a follower; none of these has one")
    return instances_of(
        clips,
        others=manifest.clips,
        leave_at=options.leave_at,
        weights=weights,
        count=options.instances,
        seed=options.seed,
        pick=pick,
        random_phase=options.random_phase,
        speed=options.speed,
    )
