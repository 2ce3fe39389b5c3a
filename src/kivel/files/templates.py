"""Templates (Jinja2, sandboxed) rendered in a process of their own, with limits on time, memory and length."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from kivel.core.errors import KivelError
from kivel.core.named_tuples import NamedTuple
from kivel.files.limited_process import GaveUpError, LimitedProcess

__all__ = ["RenderJob", "TemplateError", "rendered"]

_MOST_TOGETHER = 32 << 20
"""Characters of all files of a run."""


class RenderJob(NamedTuple):
    """A template by its number, and what it is given: plain JSON values."""

    template: int
    variables: Mapping[str, Any]


class TemplateError(KivelError):
    """A template that cannot be rendered: the number of the job, and the template's line from 1, where it is known."""

    def __init__(self, message: str, *, job: int, line: int | None) -> None:
        super().__init__(message)
        self.job = job
        self.line = line


def rendered(templates: Sequence[str], jobs: Sequence[RenderJob]) -> list[str]:
    """Return the text of each job.

    Raises
    ------
    TemplateError
        Of the first job that fails, takes longer than two seconds, needs more than 256 MB or writes without end; or
        where all together write more than 32 million characters.
    """
    if not jobs:
        return []
    texts: list[str] = []
    length = 0
    with LimitedProcess("render", jobs, templates=list(templates)) as process:
        for number in range(len(jobs)):
            texts.append(_answer(process, number))
            length += len(texts[-1])
            if length > _MOST_TOGETHER:
                why = f"all files together have more than {_MOST_TOGETHER >> 20} million characters"
                raise TemplateError(why, job=number, line=None)
    return texts


def _answer(process: LimitedProcess, job: int) -> str:
    try:
        answer = process.answer()
    except GaveUpError as error:
        raise TemplateError(str(error), job=job, line=None) from error
    if "error" in answer:
        raise TemplateError(answer["error"], job=job, line=answer["line"])
    text: str = answer["text"]
    return text
