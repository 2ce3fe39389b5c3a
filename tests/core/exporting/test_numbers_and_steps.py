"""Numbers rounded once, places that give the pixels back, steps that are the core's own."""

from __future__ import annotations

import random
from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction
from itertools import islice

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kivel.core.errors import UsageError
from kivel.core.exporting.cues import cues_of
from kivel.core.exporting.float_text import float32_text
from kivel.core.exporting.keyframes import Keyframes, keyframes_of
from kivel.core.exporting.layer_plan import layer_plan
from kivel.core.exporting.step_tables import step_table
from kivel.core.exporting.texture_places import texture_place
from kivel.core.option_words import Direction, End, TextureOrigin
from kivel.core.pixels.pixels import Rect, Size
from kivel.core.playback.clip import Clip, Repeat, Step
from kivel.core.playback.player import Player

rationals = st.fractions(-1000, 1000) | st.fractions(0, 1, max_denominator=16384)


@given(rationals)
def test_a_text_gives_the_nearest_float_and_is_the_shortest_that_does(value: Fraction) -> None:
    text = float32_text(value)
    read = np.float32(text)
    near = [np.nextafter(read, np.float32(side)) for side in (-np.inf, np.inf)]
    assert all(abs(Fraction(float(read)) - value) <= abs(Fraction(float(one)) - value) for one in near)
    digits = text.strip("-").replace(".", "").strip("0")
    if len(digits) > 1:
        shorter = np.float32(f"{float(text):.{len(digits) - 1}g}")
        assert shorter != read


@st.composite
def places(draw: st.DrawFn) -> tuple[Rect, Size]:
    w, h = draw(st.integers(1, 8192)), draw(st.integers(1, 8192))
    x, y = draw(st.integers(0, w - 1)), draw(st.integers(0, h - 1))
    return Rect(x, y, draw(st.integers(1, w - x)), draw(st.integers(1, h - y))), Size(w, h)


@given(places(), st.sampled_from(("top", "bottom")), st.booleans())
def test_a_place_gives_the_rectangle_back_within_the_stated_bound(
    place: tuple[Rect, Size], origin: TextureOrigin, half_texel: bool
) -> None:
    rect, page = place
    found = texture_place(rect, page, origin, half_texel=half_texel)
    inset = 0.5 if half_texel else 0
    for offset, scale, first, length, side in (
        (found.u, found.u_scale, rect.x, rect.w, page.w),
        (found.v, found.v_scale, rect.y if origin == "top" else page.h - rect.bottom, rect.h, page.h),
    ):
        assert abs(float(float32_text(offset)) * side - (first + inset)) <= side * 2**-25 * 2
        assert offset * side == first + Fraction(inset)
        assert scale * side == length - 2 * Fraction(inset)


clips = st.builds(
    Clip,
    st.just("c"),
    st.fractions(Fraction(1, 2), 240, max_denominator=1001),
    st.lists(st.builds(Step, st.integers(0, 9), st.integers(1, 9)), min_size=1, max_size=12).map(tuple),
    st.sampled_from(("normal", "reverse", "alternate", "alternate-reverse")),
    st.just("forever"),
)


@given(clips, st.lists(st.fractions(0, 1, max_denominator=997), min_size=1, max_size=9))
def test_a_table_shows_at_any_time_what_plays(clip: Clip, shares: list[Fraction]) -> None:
    table = step_table(clip)
    assert table.cycle_ticks / clip.timebase == clip.length
    boundaries = [step.start / clip.timebase for step in table.steps]
    for seconds in [*boundaries, *(share * clip.length * 3 for share in shares)]:
        assert table.at(seconds).frame == Player(clip).at(seconds).frame


@pytest.mark.parametrize("direction", ["normal", "alternate"])
def test_a_coarser_clock_stays_within_half_a_tick(direction: Direction) -> None:
    clip = Clip("c", Fraction(24000, 1001), tuple(Step(n, 1 + n % 3) for n in range(7)), direction)
    table = step_table(clip, Fraction(20))
    assert table.clip.timebase == 20
    assert 0 < table.error <= Fraction(1, 40)
    exact = step_table(clip)
    for mine, its in zip(table.steps, exact.steps, strict=True):
        assert abs(mine.start / Fraction(20) - its.start / clip.timebase) <= Fraction(1, 40)


def _shown(found: Keyframes, milliseconds: Fraction) -> int | None:
    """What CSS shows so long after the start, by the percentages as they are printed."""
    share = milliseconds / found.milliseconds
    if found.repeat != "forever" and share >= found.repeat:
        return found.last
    progress = share % 1 * 100
    return [one.frame for one in found.keyframes if Fraction(one.percent.removesuffix("%")) <= progress][-1]


@given(clips, st.sampled_from((1, 2, 3, "forever")), st.sampled_from(("last", "first", "none")), st.data())
def test_keyframes_show_at_and_around_every_boundary_what_plays(
    clip: Clip, repeat: Repeat, end: End, data: st.DataObject
) -> None:
    phase = data.draw(st.fractions(0, len(clip.order()) - Fraction(1, 8), max_denominator=8))
    clip = replace(clip, repeat=repeat, end=end, phase=phase)
    found, player = keyframes_of(clip), Player(clip)
    assert found.error <= Fraction(1, 10**6)
    boundaries = [happening.time * 1000 for happening in islice(player.happenings(), 40) if happening.kind == "show"]
    for boundary in boundaries:
        for time in (boundary - Fraction(1, 20), boundary, boundary + Fraction(1, 20)):
            if time >= 0 and (player.length is None or time < player.length * 1000):
                assert _shown(found, time) == player.at(time / 1000).frame
    if player.length is not None:
        assert _shown(found, player.length * 1000 + 1) == player.at(player.length + 1).frame


def test_frames_that_blend_have_no_keyframes() -> None:
    clip = Clip("c", Fraction(12), (Step(0, 1), Step(1, 1)), interpolation="linear")
    with pytest.raises(UsageError, match="these would slide"):
        keyframes_of(clip)


Shows = Callable[[Fraction], int | None]


def _by_table(clip: Clip) -> Shows:
    table, begun = step_table(clip), Player(clip).phase_share * clip.length
    return lambda time: table.at(time + begun).frame


def _by_keyframes(clip: Clip) -> Shows:
    found = keyframes_of(clip)
    return lambda time: _shown(found, time * 1000)


def _by_layers(clip: Clip) -> Shows:
    plan = layer_plan(clip)
    return lambda time: plan.frames[int(time / plan.seconds) % len(plan.frames)]


def _by_cues(clip: Clip) -> Shows:
    cues = cues_of(clip).cues
    return lambda time: next(cue.frame for cue in cues if cue.start_ms <= time * 1000 % cues[-1].end_ms < cue.end_ms)


@pytest.mark.slow
@pytest.mark.parametrize("shown", [_by_table, _by_keyframes, _by_layers, _by_cues])
def test_at_ten_thousand_times_and_every_boundary_what_plays_shows(shown: Callable[[Clip], Shows]) -> None:
    """Within half a tick of the target's own clock, which is a millisecond of cues, and else exact."""
    drawn, told = random.Random(4), 0
    slack = Fraction(1, 2000) if shown is _by_cues else Fraction(0)
    while told < 10_000:
        steps = tuple(Step(drawn.randrange(9), drawn.randint(1, 40)) for _ in range(drawn.randint(1, 12)))
        timebase = Fraction(drawn.choice((12, 24, 60, 240, Fraction(24000, 1001))))
        clip = Clip("c", timebase, steps, drawn.choice(("normal", "reverse", "alternate")), "forever")
        clip = replace(clip, phase=Fraction(drawn.randrange(len(clip.order()))))
        player, shows_at = Player(clip), shown(clip)
        shows = [one.time for one in player.happenings(end=clip.length) if one.kind == "show"]
        times = shows + [clip.length * Fraction(drawn.randrange(9973), 9973) for _ in range(60)]
        for time in times:
            near = {player.at(max(Fraction(0), time + off)).frame for off in (-slack, Fraction(0), slack)}
            assert shows_at(time) in near
        told += len(times)
