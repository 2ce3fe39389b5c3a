"""Describes one kind of step: how it is written, what it says of itself, and what it does."""

from __future__ import annotations

from collections.abc import Callable

from kivel.core.named_tuples import NamedTuple
from kivel.core.prepare.actions import Action
from kivel.core.prepare.parameters import Parameter
from kivel.core.prepare.varying import AT_ENDS, AT_PACE, OVER_FRAMES, changing

__all__ = ["StepKind"]


class StepKind(NamedTuple):
    """One kind of step.

    `build` takes the values by their names. `colour_only` steps mean nothing to data maps. Those that are `moving`
    leave pixel values alone, and so may follow `premultiply`. In those that `vary` numbers and sizes may change over
    the sequence.
    """

    name: str
    summary: str
    build: Callable[..., Action]
    parameters: tuple[Parameter, ...]
    example: str
    shows: str
    colour_only: bool = False
    moving: bool = False
    varies: bool = True

    @property
    def may_vary(self) -> bool:
        return self.varies and any(parameter.is_measure for parameter in self.parameters)

    @property
    def all_parameters(self) -> tuple[Parameter, ...]:
        """Its own, and for values that change those that say how."""
        if not self.may_vary:
            return self.parameters
        return (*(changing(one) if one.is_measure else one for one in self.parameters), OVER_FRAMES, AT_PACE, AT_ENDS)

    @property
    def varying_example(self) -> str:
        """How a changing value of this step would be written."""
        one = next(parameter for parameter in self.parameters if parameter.is_measure)
        values = {"WxH": "8x8..64x64", "N": "0..1"}.get(one.form, "#000..#fff")
        return f"{self.name} {values}" if one.positional else f"{self.name} {one.name}={values}"
