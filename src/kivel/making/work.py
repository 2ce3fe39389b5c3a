"""Notes, questions and progress while something is made."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Callable, Collection, Iterable, Iterator, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from kivel.core.errors import Door, KivelError, spelled
from kivel.core.named_tuples import NamedTuple

if TYPE_CHECKING:
    from kivel.files.output_set import Written
    from kivel.sequences.reconciling.frame_edits import FrameEdit
    from kivel.sequences.sequence import FrameSequence

__all__ = ["Cancelled", "Note", "Progress", "RecipeTask", "Watch", "Work"]


class Cancelled(KivelError):  # noqa: N818 - what happened, not what is wrong
    """Raised by whoever watches, to stop the work; sets of files that were finished before stay."""

    def __init__(self, message: str = "cancelled; nothing was written", *, where: str | None = None) -> None:
        super().__init__(message, where=where)


class Note(NamedTuple):
    """Something that a person should know though the work goes on."""

    text: str


class Progress(NamedTuple):
    """This many of `total` pieces of one kind of work are done; it has begun at 0."""

    what: str
    done: int
    total: int


Watch = Callable[[Note | Progress], object]
"""Is called with each note and each piece of progress, one at a time, from whichever thread. What it raises stops the
work."""


class RecipeTask(NamedTuple):
    """A task of a recipe, by its name; `others` are the names of all that write into packs."""

    recipe: str
    name: str
    others: frozenset[str]


class Work:
    """The notes of one piece of work, the files that it has put in place, and those who watch it.

    `edits` are what was done to the frames that it takes, since a manifest said something of them.

    `ours` are files, as the options name them, of which the caller knows that Kivel wrote them and nobody edited them.
    `task` is what a recipe wants done, None for whatever is asked for by hand. `is_again` says that what was asked for
    last time is known: this is it, with what was just stated in its place.
    """

    is_again = False

    def __init__(
        self,
        watch: Watch | None = None,
        *,
        door: Door = "command",
        ours: Collection[Path] = (),
        task: RecipeTask | None = None,
    ) -> None:
        self.ours = ours
        self.task = task
        self._watch = watch
        self._door: Door = door
        self._lock = threading.Lock()
        self.notes: list[str] = []
        self.files: list[Written] = []
        self.edits: list[FrameEdit] = []

    def hear(self, *sequences: FrameSequence) -> None:
        """Keep and tell what sequences have to say of themselves: their notes, and what was done to their frames."""
        for sequence in sequences:
            self.note(*sequence.notes)
            self.edits += sequence.edits

    def placed(self, files: Sequence[Written]) -> None:
        """Keep a set of files that is in place."""
        self.files += files

    def note(self, *texts: str) -> None:
        """Keep notes, and tell them."""
        for text in texts:
            self.notes.append(spelled(text, self._door))
            self._tell(Note(self.notes[-1]))

    @contextlib.contextmanager
    def progress(self, what: str, total: int) -> Iterator[Callable[[], None]]:
        """A function to call after each of `total` pieces of work, from any thread."""
        done = 0
        self._tell(Progress(what, 0, total))

        def advance() -> None:
            nonlocal done
            if self._watch is None:
                return
            with self._lock:
                done += 1
                self._watch(Progress(what, done, total))

        yield advance

    def watching(self, what: str) -> Callable[[Iterable[bytes], int], Iterator[bytes]]:
        """For whoever knows the pieces and how many there are: they come as before, with progress."""

        def watched(pieces: Iterable[bytes], total: int) -> Iterator[bytes]:
            with self.progress(what, total) as advance:
                for piece in pieces:
                    yield piece
                    advance()

        return watched

    def _tell(self, event: Note | Progress) -> None:
        if self._watch is not None:
            with self._lock:
                self._watch(event)
