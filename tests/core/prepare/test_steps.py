"""Steps as they are written: what they read, and how they refuse."""

from __future__ import annotations

import pytest

from kivel.core.errors import UsageError
from kivel.core.prepare.actions import Each, Frame, Measured, Order
from kivel.core.prepare.chain import prepared
from kivel.core.prepare.ramp import Stop
from kivel.core.prepare.steps import actions_of, parse_step
from kivel.core.prepare.table import STEPS
from program import art


@pytest.mark.parametrize(
    ("text", "values"),
    [
        ("matte", {"how": "bright", "floor": 0, "color": None}),
        ("matte key color=#0f0 spill=50%", {"how": "key", "color": (0, 1, 0), "spill": 0.5}),
        ("fit size=64x32 filter=box", {"size": (64, 32), "filter": "box", "upscale": False}),
        ("fit 64x32 upscale stretch=no", {"upscale": True, "stretch": False}),
        ("ramp #000 #ffffff@0.5", {"stops": (Stop((0, 0, 0)), Stop((1, 1, 1), 0.5))}),
        ("shift -3 0.5 each", {"dx": -3, "dy": 0.5, "each": True, "wrap": False}),
        ("anchor 80,76 to=0.5,1", {"at": (80.5, 76.5), "to": (0.5, 1)}),
        ("distort by='a b.png' strength=2 scroll=1,-1", {"by": "a b.png", "scroll": (1, -1)}),
    ],
)
def test_steps_are_read(text: str, values: dict[str, object]) -> None:
    found = parse_step(text, where="").values
    assert {name: found[name] for name in values} == values


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("", "a step of prep is empty; it must begin with one of matte, "),
        ("mate", "no step of prep is called 'mate'; did you mean matte?\n  mate\n  ^^^^"),
        (
            "fit 64x64 fliter=box",
            "fit has no fliter=; did you mean filter?\n  fit 64x64 fliter=box\n            ^^^^^^^^^^",
        ),
        ("fit 64", "fit: size: expected WIDTHxHEIGHT in pixels, like 64x32, found '64'\n  fit 64\n      ^^"),
        ("fit", "fit needs WxH: size to fit into\n  fit\n     ^"),
        (
            "fit 1x1 2x2",
            "fit takes no '2x2'; it has size, filter, stretch, upscale, over, pace, ends\n  fit 1x1 2x2\n          ^^^",
        ),
        ("shift 1", "shift needs DY: down, from -16384 to 16384 px"),
        ("shift 1 1e9", "shift: dy: expected a number from -16384 to 16384 px, found '1e9'"),
        ("pad 1.5", "pad: all: expected a whole number from 0 to 16384 px, found '1.5'"),
        ("opacity nan", "opacity: share: expected a number from 0 to 1, found 'nan'"),
        ("trim each=maybe", "trim: each: expected yes or no, found 'maybe'"),
        ("trim each each", "trim: each is there twice"),
        ("turn 45", "turn: degrees: expected 90, 180 or 270, found '45'"),
        ("matte color=green", "matte: color: expected a colour like #00b140, found 'green'"),
        ("ramp #000@2 #fff", "ramp: stops: expected a position from 0 to 1 after @, found '2'"),
        ("anchor middle", "anchor: at: expected mass, bottom, or a pixel like 80,76, found 'middle'"),
        ("crop 4x4 at=0.5,1", "crop: at: expected whole numbers X,Y, like 12,8, found '0.5,1'"),
        ("reorder 0-x", "reorder: frames: expected frames like 0-7, 0-3,2-1 or 5*3, found '0-x'"),
        ("keep 0-99999999", "keep: frames: with '0-99999999' there are more than 1,000,000 frames"),
        ('fit "64x64', 'a quote (") is not closed\n  fit "64x64\n      ^^^^^^'),
    ],
)
def test_the_error_points_at_the_word(text: str, message: str) -> None:
    with pytest.raises(UsageError) as caught:
        parse_step(text, where="--step 2")
    assert str(caught.value).startswith(f"--step 2: {message}")


@pytest.mark.parametrize(
    ("texts", "kind", "message"),
    [
        (["matte key"], "color", "--step 1: matte: key needs the background colour"),
        (["ramp #000"], "color", "--step 1: ramp: a ramp needs at least two stops, found 1"),
        (["ramp"], "color", "--step 1: ramp: use either colours"),
        (["pad"], "color", "--step 1: pad: how much? Give a number"),
        (["pad 1 to=9x9"], "color", "--step 1: pad: use either to=WxH or pixels"),
        (["turn 90", "matte"], "normal", "--step 2: matte is for colour, but these frames are taken as normal"),
        (
            ["premultiply", "trim", "fit 2x2"],
            "color",
            "--step 3: fit needs straight alpha, and comes after premultiply",
        ),
    ],
)
def test_chains_that_make_no_sense_are_refused(texts: list[str], kind: str, message: str) -> None:
    steps = [parse_step(text, where=f"--step {number}") for number, text in enumerate(texts, 1)]
    with pytest.raises(UsageError) as caught:
        actions_of(steps, kind=kind, load_file=lambda _: art(1))  # type: ignore[arg-type]
    assert str(caught.value).startswith(message)


def test_frames_that_are_not_there_are_named() -> None:
    loads = [lambda: Frame(art(1))] * 3
    for text, message in (
        ("drop 3", "drop: there is no frame 3; there are 3 frames, 0-2"),
        ("drop 0-2", "no frames are left"),
    ):
        actions = actions_of([parse_step(text, where="")], load_file=lambda _: art(1))
        with pytest.raises(UsageError, match=message):
            prepared(loads, actions, run=lambda f, items: map(f, items))


@pytest.mark.parametrize("name", STEPS)
def test_every_example_is_a_step_that_can_be_built(name: str) -> None:
    kind = STEPS[name]
    assert kind.example.split()[0] == name
    [action] = actions_of([parse_step(kind.example, where="")], load_file=lambda _: art(1))
    assert isinstance(action, Each | Measured | Order)


def test_holds_multiply_over_two_orders() -> None:
    actions = actions_of([parse_step(t, where="") for t in ("reorder 0*2,1", "reorder 0*3,1-0")], load_file=art)  # type: ignore[arg-type]
    items = prepared([lambda: Frame(art(1))] * 2, actions, run=lambda f, items: map(f, items))
    assert [(item.origin, item.times) for item in items] == [(0, 6), (1, 1), (0, 2)]


def test_a_measured_chain_reads_each_frame_once_where_there_is_room() -> None:
    """A shelf keeps what was measured; without one, frames are made again."""
    asked: list[int] = []

    def loader(index: int) -> Frame:
        asked.append(index)
        return Frame(art(index))

    class Shelf:
        def kept(self, frame: Frame):  # type: ignore[no-untyped-def]
            return lambda: frame

    loads = [lambda index=index: loader(index) for index in range(5)]
    actions = actions_of([parse_step(text, where="") for text in ("trim", "anchor mass")], load_file=lambda _: art(1))
    for shelf, times in ((Shelf(), 1), (None, 3)):
        asked.clear()
        items = prepared(loads, actions, run=lambda f, items: map(f, items), shelf=shelf)
        assert len([item.load() for item in items]) == 5
        assert len(asked) == 5 * times
