"""Steps as they are written: read, checked, and turned into what they do."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from kivel.core.errors import UsageError, located
from kivel.core.named_tuples import NamedTuple
from kivel.core.pixels.light import Kind
from kivel.core.playback.notation import Ordered
from kivel.core.prepare.actions import Action, Decision, Each, Frame, Order, Place, Transform
from kivel.core.prepare.parameters import NamedFile
from kivel.core.prepare.step_kind import StepKind
from kivel.core.prepare.table import STEPS
from kivel.core.prepare.varying import AT_ENDS, AT_PACE, OVER_FRAMES, Course, is_varying, opened_at_zero, varied
from kivel.core.prepare.written import moved_files, parse_values, pointing_at, words_of
from kivel.core.suggestions import did_you_mean

__all__ = ["WrittenStep", "actions_of", "moved_step", "parse_step"]


class WrittenStep(NamedTuple):
    """A step as read: its kind, its values, and the text."""

    kind: StepKind
    values: dict[str, Any]
    text: str
    where: str


def parse_step(text: str, *, where: str) -> WrittenStep:
    """Read `name argument key=value`; `where` it is goes before what is wrong with it.

    Raises
    ------
    UsageError
        Pointing at the word that is wrong.
    """
    with located(where):
        return _parsed(text, where)


_ALSO = {"rotate": "turn"}
"""Says what the trade calls steps, and what means the same."""


def _parsed(text: str, where: str) -> WrittenStep:
    words = words_of(text)
    if not words:
        raise UsageError(f"a step of prep is empty; it must begin with one of {', '.join(STEPS)}")
    name = _ALSO.get(words[0].text, words[0].text)
    if name not in STEPS:
        hint = did_you_mean(name, STEPS, kind="step", otherwise=f"there are {', '.join(STEPS)}")
        raise pointing_at(text, words[0].start, words[0].end, f"no step of prep is called {name!r}{hint}")
    kind = STEPS[name]
    values = parse_values(text, words[1:], kind.all_parameters, name=name)
    return WrittenStep(kind, values, text, where)


def moved_step(text: str, move: Callable[[str], str]) -> str:
    """A step as it is written from elsewhere: the files that it names passed through `move`."""
    words = words_of(text)
    kind = STEPS.get(_ALSO.get(words[0].text, words[0].text)) if words else None
    return moved_files(text, words[1:], kind.all_parameters, move) if kind else text


def actions_of(
    steps: Sequence[WrittenStep],
    *,
    kind: Kind = "color",
    load_file: Callable[[NamedFile], Any],
    premultiplied: bool = False,
) -> list[Action]:
    """Return what the steps do, in their order.

    Parameters
    ----------
    kind : Kind
        What the frames' values mean.
    load_file : callable
        Gives the bytes of a file that a step names by its path, or the pixels, (H, W, 4), of an image.
    premultiplied : bool
        Whether the frames are, to begin with.

    Raises
    ------
    UsageError
        If a step makes no sense for that kind, or after another; if its values contradict each other.
    """
    multiplied, since = premultiplied, "the frames are premultiplied; put unpremultiply first"
    actions = []
    for step in steps:
        name = step.kind.name
        if step.kind.colour_only and kind != "color":
            raise UsageError(f"{name} is for colour, but these frames are taken as {kind}", where=step.where)
        if multiplied and not step.kind.moving:
            raise UsageError(f"{name} needs straight alpha, and {since}", where=step.where)
        if name == "premultiply":
            multiplied, since = True, "comes after premultiply; put premultiply last"
        multiplied = multiplied and name != "unpremultiply"
        values = {
            key: load_file(value) if isinstance(value, NamedFile) else value for key, value in step.values.items()
        }
        with located(step.where), located(name):
            actions.append(_saying(name, _built(step.kind, values)))
    return actions


def _built(kind: StepKind, values: dict[str, Any]) -> Action:
    """Return what a step does; one whose values change over the sequence is built for each frame again."""
    course = Course(values.pop(OVER_FRAMES.name, None), values.pop(AT_PACE.name, None))
    is_open = values.pop(AT_ENDS.name, "closed") == "open"
    varying = [name for name, value in values.items() if is_varying(value)]
    if varying:
        return varied(kind.build, values, course._replace(open=opened_at_zero(values)) if is_open else course)
    if course != Course() or is_open:
        given = OVER_FRAMES.name if course.over else AT_PACE.name if course.pace else AT_ENDS.name
        raise UsageError(f"{given}= is for a value that changes, like {kind.varying_example}; there is none")
    return kind.build(**values)


def _saying(name: str, action: Action) -> Action:
    """The same action; what it finds wrong says which step it was."""

    def saying(transform: Transform) -> Transform:
        def said(frame: Frame, place: Place) -> Frame:
            with located(place.name), located(name):
                return transform(frame, place)

        return said

    if isinstance(action, Each):
        return action._replace(transform=saying(action.transform))
    if isinstance(action, Order):
        return Order(_located(name, action.pick))

    def decide(values: Sequence[Any]) -> Decision:
        with located(name):
            decision = action.decide(values)
            return decision._replace(transform=saying(decision.transform))

    return action._replace(decide=decide)


def _located(name: str, pick: Callable[[int], list[Ordered]]) -> Callable[[int], list[Ordered]]:
    def picked(count: int) -> list[Ordered]:
        with located(name):
            return pick(count)

    return picked
