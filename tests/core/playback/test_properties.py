"""One entry says all of a property of clips; what has no entry is set, kept and said nowhere."""

from __future__ import annotations

from dataclasses import fields, replace
from fractions import Fraction
from typing import Any

import pytest

from kivel.core.playback.changes import Changes, changed, set_by
from kivel.core.playback.clip import Clip, Event, Step
from kivel.core.playback.properties import PROPERTIES, SETTABLE
from kivel.making.options.retime_options import RetimeOptions
from kivel.views.clip_changes import clip_facts
from kivel.views.timing_chart import clip_facts_drawn

MADE_OF = {"name", "timebase", "steps", "phase_share", "frames", "staggered", "set", "was", "extra"}
"""What is no property: of what a clip is made, and what is known of that."""
USUAL = Clip("walk", Fraction(12), tuple(Step(frame, 1) for frame in range(3)), repeat=1)
OTHERWISE: dict[str, Any] = {
    "direction": "alternate", "hold_ends": True, "repeat": 2, "end": "first", "then": "run", "interpolation": "motion",
    "phase": Fraction(1), "events": (Event(1, "tap"),),
}  # fmt: skip


def test_every_property_of_a_clip_has_an_entry_and_an_option() -> None:
    names = [one.name for one in PROPERTIES]
    assert set(names) == {field.name for field in fields(Clip)} - MADE_OF == set(OTHERWISE)
    assert set(names) <= set(Changes._fields)
    options = RetimeOptions.declared()
    assert {name.replace("_", "-").replace("events", "event") for name in names} <= set(options)
    assert SETTABLE[-len(names) :] == tuple(names)


@pytest.mark.parametrize("name", OTHERWISE)
def test_a_property_that_is_not_as_usual_is_said(name: str) -> None:
    values: dict[str, Any] = {"direction": "alternate", name: OTHERWISE[name]}
    clip = replace(USUAL, **values)
    plain = replace(USUAL, direction="alternate" if name != "direction" else "normal")
    assert clip_facts(clip) != clip_facts(plain)
    assert name == "events" or clip_facts_drawn(clip) != clip_facts_drawn(plain), "events are drawn as marks"


def test_what_changes_set_is_named_in_order() -> None:
    changes = Changes(interpolation="linear", repeat=3, direction="reverse", drop_events=True)
    assert set_by(changes) == ("direction", "repeat", "interpolation", "events")
    clip = changed(USUAL, changes).clip
    assert (clip.interpolation, clip.repeat, clip.direction) == ("linear", 3, "reverse")
