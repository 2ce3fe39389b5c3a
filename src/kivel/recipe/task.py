"""A task: one command with its options as texts, what it reads, writes and needs; and where builds keep things."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from kivel.core.named_tuples import NamedTuple

if TYPE_CHECKING:
    from kivel.making.options.option import Option

__all__ = ["STORE", "Said", "Task", "as_given"]

STORE = ".kivel"
"""The folder beside the recipe that holds what is known and kept of builds."""
Said = dict[str, list[str]]
"""Options by their names, each with the texts that were given."""


class Task(NamedTuple):
    """A command to be run in the recipe's folder.

    `reads` are files, folders and patterns; `needs` the tasks that have to be done before. A `step` leaves frames in
    a folder of the store; what others write is for the user. `line` says where it is in the recipe.
    """

    name: str
    thing: str
    command: str
    said: Said
    retimes: tuple[Said, ...]
    reads: tuple[str, ...]
    writes: tuple[str, ...]
    needs: tuple[str, ...]
    step: bool
    line: str

    @property
    def fills_a_pack(self) -> bool:
        """Whether it writes into a folder that may be filled by others as well."""
        return self.command == "export" and "profile" in self.said


def as_given(said: Said, declared: Mapping[str, Option[Any]]) -> dict[str, Any]:
    """Texts as the command line would hand them over."""
    return {name: texts if declared[name].repeats else texts[0] for name, texts in said.items()}
