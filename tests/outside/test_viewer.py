"""The viewer page, in a browser: it shows what the core says, pixel by pixel, and names are text."""

from __future__ import annotations

import base64
import contextlib
import itertools
import json
import random
from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from moving_spots import circling
from outside_readers import chromium, said_by_node

import kivel
from kivel.core.pixels.light import to_light
from kivel.core.pixels.pixels import Pixels
from kivel.core.playback.clip import Clip, Event, Step
from kivel.core.playback.following import Chain
from kivel.core.playback.groups import Group
from kivel.core.playback.instances import happenings_of, instances_of
from kivel.core.playback.player import Happening
from kivel.core.resampling import Share, mixed
from kivel.files.manifest.parsing import read_manifest
from kivel.files.manifest.text import manifest_text
from kivel.sequences.between_frames import frame_between
from kivel.sequences.opening import open_sources
from kivel.sequences.settings import SourceSettings
from program import art, read, write

pytestmark = pytest.mark.slow


@pytest.fixture(autouse=True)
def place(tmp_path: Path) -> Iterator[Path]:
    """A grid, an atlas of trimmed, turned and mirrored frames on several pages, and frames alone."""
    with contextlib.chdir(tmp_path):
        for number in range(8):
            blob = np.zeros((13, 17, 4), np.uint8)
            wide = number % 2 * 8
            blob[1 : 11 - wide, 2 : 4 + wide] = art(int(number in (3, 5, 7)), width=10, height=10)[
                : 10 - wide, : 2 + wide
            ]
            write(tmp_path / f"blob/blob_{number}.png", blob[::-1] if number > 3 else blob)
            write(tmp_path / f"owl/owl_{number}.png", art(number, width=15, height=11))
        kivel.sheet("owl", out="owl.png", columns=3, gap=1, margin=2)
        kivel.atlas("blob", out="blob.png", turn=True, share_flips=True, page_limit="4x12")
        yield tmp_path


def random_clips(seed: int) -> tuple[Clip, ...]:
    drawn = random.Random(seed)
    names = [f"c{number}" for number in range(15)]
    clips = []
    for name in names:
        steps = tuple(Step(drawn.randrange(8), drawn.randint(1, 9)) for _ in range(drawn.randint(1, 10)))
        clip = Clip(
            name,
            Fraction(drawn.choice((1, 12, 24, 60, 1000, Fraction(24000, 1001)))),
            steps,
            drawn.choice(("normal", "reverse", "alternate", "alternate-reverse")),
            repeat=drawn.choice(("forever", 0, 1, 2, 3)),
            end=drawn.choice(("last", "first", "none")),
            interpolation=drawn.choice(("step", "linear")),
            events=(Event(0, "hoo"),),
            then=drawn.choice((None, None, *names)),
        )
        clips.append(replace(clip, phase=Fraction(drawn.randrange(len(clip.order()) * 4), 4)))
    return tuple(clips)


def viewed(name: str, clips: tuple[Clip, ...], groups: tuple[Group, ...] = (), fade: Any = "linear") -> Path:
    path = Path(f"{name}.kivel.json")
    path.write_text(manifest_text(replace(read_manifest(path), clips=clips, groups=groups)))
    kivel.preview(path, out=f"{name}.html", fade=fade)
    return Path(f"{name}.html").resolve()


def asked(*jobs: dict[str, Any]) -> list[Any]:
    Path("jobs.json").write_text(json.dumps(jobs, default=str))
    return said_by_node("read_viewer.mjs", chromium(), Path("jobs.json").resolve())


def pixels_of(text: str, like: Pixels) -> Pixels:
    """As WebGL gives them: the lowest row first."""
    return np.frombuffer(base64.b64decode(text), np.uint8).reshape(like.shape)[::-1]


def told(happening: Happening, clip: Clip) -> list[Any]:
    """As a page tells what happens."""
    named = [happening.name] if happening.kind == "event" else []
    shown = [happening.step, happening.frame] if happening.kind in ("show", "event") else []
    return [text_of(happening.time), happening.kind, clip.name, *shown, *named]


# what a page tells, as `told` does
TOLD = """
    const told_ = ({ time, kind, clip, step, frame, name }) => {
        const more = { show: [step, frame], event: [step, frame, name] }[kind] ?? [];
        return [`${time.n}/${time.d}`, kind, clip, ...more];
    };"""


def text_of(time: Fraction) -> str:
    return f"{time.numerator}/{time.denominator}"


@pytest.mark.parametrize(("name", "fade"), [("owl", "linear"), ("blob", "linear"), ("blob", "stored")])
def test_at_300_moments_the_page_shows_what_plays_pixel_by_pixel(place: Path, name: str, fade: Any) -> None:
    clips = random_clips(len(name))
    drawn = random.Random(1)
    looks = []
    for clip in clips:
        chain = Chain(clip, clips)
        end = chain.settled + 2
        shows = [happens.time for _, happens in chain.happenings(end=end)][:400]
        times = drawn.sample(shows, min(6, len(shows))) + [
            end * Fraction(drawn.randrange(9973), 9973) for _ in range(14)
        ]
        looks += [(clip, time) for time in times]
    drawn.shuffle(looks)
    file = viewed(name, clips, fade=fade)
    (found,) = asked({"file": str(file), "looks": [(clip.name, text_of(time)) for clip, time in looks], "pixels": 200})
    assert (found["wrong"], len(looks) >= 250) == ([], True)
    images = [read(path) for path in sorted((place / name).glob("*.png"))]
    for (clip, time), shown in zip(looks, found["shown"], strict=True):
        playing = Chain(clip, clips).at(time)
        moment = playing.moment
        assert (shown["clip"], shown["frame"]) == (playing.player.clip.name, moment.frame), (clip, time)
        assert abs(shown["weight"] - float(moment.weight)) < 1e-9
        if "pixels" not in shown:
            continue
        assert moment.frame is not None
        expected = images[moment.frame]
        if moment.weight:
            assert moment.following is not None
            pair = (expected, images[moment.following])
            share = float(moment.weight)
            kind: Any = "stored" if fade == "stored" else "color"
            expected = mixed([Share(0, 1 - share), Share(1, share)], pair.__getitem__, kind=kind)
        pixels = pixels_of(shown["pixels"], expected).astype(int)
        visible = expected[..., 3] > 0
        off = np.abs(pixels - expected)
        assert off[..., 3].max() <= (1 if moment.weight else 0)
        assert off[visible].max(initial=0) <= (1 if moment.weight else 0), (clip.name, time)


def test_what_happens_in_the_page_is_what_trace_tells() -> None:
    """Also of a loop that is left for what follows it, and from a time on."""
    clips = random_clips(3)
    spans = [(clip, leave, start) for clip in clips for leave in (None, Fraction(7, 3)) for start in (0, 5)]
    runs = [
        f"""{TOLD} const leave = {json.dumps(leave and text_of(leave))};
        const one = new Chain(clips.get({clip.name!r}), byName[0], leave && parse(leave));
        return one.between(fraction({start or -1}n), fraction({start + 9}n), 300).map(told_);"""
        for clip, leave, start in spans
    ]
    (found,) = asked({"file": str(viewed("owl", clips)), "acts": [{"run": run} for run in runs]})
    assert found["wrong"] == []
    for (clip, leave, start), said in zip(spans, found["said"], strict=True):
        chain = Chain(clip, clips, leave_at=leave)
        every = chain.happenings(Fraction(start), Fraction(start + 9) + Fraction(1, 10**9))
        happens = [told(one, player.clip) for player, one in every if not start or one.time > start]
        assert said == happens[:300], (clip, leave, start)


@pytest.mark.parametrize("of", ["this clip", "group every", "group some"])
@pytest.mark.parametrize("phases", [False, True])
def test_12_instances_are_those_of_timeline(of: str, phases: bool) -> None:
    clips = tuple(replace(clip, phase=Fraction(0)) for clip in random_clips(5))
    members = {"this clip": clips[:1], "group every": clips[2:6], "group some": clips[3:8]}[of]
    names = tuple(clip.name for clip in members)
    groups = (Group("every", names), Group("some", names, "random", (1, 5, 0, 2, 3)[: len(names)]))
    weights = groups[1].weights if of == "group some" else None
    pick = "some" if of == "group some" else None
    instances = instances_of(members, count=12, seed=9, pick=pick, weights=weights, others=clips, random_phase=phases)
    chosen = json.dumps({"clip": clips[0].name, "many": 12, "of": of, "seed": 9, "phases": phases})
    run = f"""{TOLD} Object.assign(state, {chosen}); build();
        const happens = (chain) => chain.between(BEFORE, fraction(3n), 400).map(told_);
        return instances.flatMap(({{ number, chain }}) => happens(chain).map((one) => [number, ...one]));"""
    look = """clock.time = fraction(1n); draw();
        return arranged(fraction(1n)).panes.map(({ label, moment, frame }) => [label, moment.frame, frame]);"""
    (found,) = asked({"file": str(viewed("owl", clips, groups)), "acts": [{"run": run}, {"run": look}]})
    happens = [
        [instance.number, *told(one, clip)]
        for each in instances
        for instance, clip, one in happenings_of([each], Fraction(0), [Fraction(3) + Fraction(1, 10**9)])
    ]
    assert (found["wrong"], found["said"][0]) == ([], happens)
    frames = [one.chain.at(Fraction(1)).moment.frame for one in instances]
    labels = [f"{one.number}  {one.clip.name}" for one in instances]
    assert found["said"][1] == [[label, frame, frame] for label, frame in zip(labels, frames, strict=True)]


def test_seeking_then_stepping_then_playing_for_10_s_never_leaves_the_schedule() -> None:
    clips = random_clips(7)
    clip = next(one for one in clips if one.repeat == "forever" and len(one.steps) > 4)
    watch = """window.seen = []; const drawn_ = drawing.draw.bind(drawing);
        drawing.draw = (view, layers, ghosts) => {
            const whole = drawn_(view, layers, ghosts);
            seen.push([whole, `${view.time.n}/${view.time.d}`, layers[0]?.frame ?? null, performance.now()]);
            return whole;
        };"""
    seek = """$("bar").setPointerCapture = () => {};
        const { left, width, top } = $("bar").getBoundingClientRect();
        const at = { clientX: left + width * 0.37, clientY: top + 5, pointerId: 1, bubbles: true };
        for (const kind of ["pointerdown", "pointerup"]) $("bar").dispatchEvent(new PointerEvent(kind, at));
        return written(clock.time);"""
    speed = """$("speed").value = "1/3"; $("speed").dispatchEvent(new Event("change")); return written(clock.time);"""
    wait = "await new Promise((done) => setTimeout(done, 10000)); return seen;"
    acts = [
        {"run": f"choose({clip.name!r}); clock.stop(performance.now());"},
        {"run": seek},
        *({"press": key} for key in ("ArrowRight", "ArrowRight", "ArrowLeft")),
        *({"run": speed}, {"run": watch}, {"press": "Space"}, {"run": wait}),
    ]
    (found,) = asked({"file": str(viewed("owl", clips)), "acts": acts})
    _, sought, began, _, seen = found["said"]
    chain = Chain(clip, clips)
    steps = [
        happens.time
        for _, happens in chain.happenings(end=Fraction(sought) + 9)
        if happens.kind == "show" and happens.time > Fraction(sought)
    ]
    assert (found["wrong"], Fraction(began)) == ([], steps[0])
    runs = [one for one in seen if one[0] and Fraction(one[1]) > Fraction(began)]
    times = [Fraction(time) for _, time, _, _ in runs]
    # a machine that is busy draws few
    assert (len(runs) > 8, times[-1] - times[0] > 2, times) == (True, True, sorted(times))
    for _, time, frame, _ in runs:
        assert frame == chain.at(Fraction(time)).moment.frame, time
    # the clock goes at a third of the machine's, and errors do not add up; a picture is stamped after it was drawn
    late = [stamp / 1000 - float(time) * 3 for (_, _, _, stamp), time in zip(runs, times, strict=True)]
    half = len(late) // 2
    assert abs(min(late[:half]) - min(late[half:])) < 0.5


def test_by_hand_each_press_is_a_step_as_trace_tells() -> None:
    clips = random_clips(11)
    clip = next(one for one in clips if one.then and one.repeat in (1, 2))
    look = "const { player, moment } = chain.at(now()); return [player.clip.name, moment.frame];"
    acts = [
        {"run": f"choose({clip.name!r}); return 0;"},
        {"press": "a"},
        {"press": "Home"},
        *[{"run": look}, {"press": "Space"}] * 30,
    ]
    (found,) = asked({"file": str(viewed("owl", clips)), "acts": acts})
    chain = Chain(clip, clips)
    times = list(dict.fromkeys(happens.time for _, happens in itertools.islice(chain.happenings(), 200)))
    playing = [chain.at(min(time, times[-1])) for time in (*times, *[times[-1]] * 30)][:30]
    assert (found["wrong"], found["said"][1:]) == ([], [[one.player.clip.name, one.moment.frame] for one in playing])


def test_two_files_are_seen_side_by_side_or_wiped_over_each_other(place: Path) -> None:
    for number in range(8):
        owl = read(place / f"owl/owl_{number}.png").copy()
        owl[..., 0] ^= 255
        write(place / f"redder/owl_{number}.png", owl)
    kivel.sheet("redder", out="redder.png")
    kivel.preview("owl.kivel.json", out="both.html", beside=["redder.kivel.json"])
    both = """Object.assign(state, { zoom: 1, beside: "redder" });
        build();
        clock.stop(0);
        clock.time = fraction(1n, 4n);
        for (const number of [3, 11]) await drawing.load(drawing.imageOf(number, "color"));
        draw(); return arranged(now()).panes.map(readPane);"""
    wiped = "state.wipe = true; state.at = 50; draw(); return [readPane(stage())];"
    (found,) = asked({"file": str(place / "both.html"), "acts": [{"run": both}, {"run": wiped}]})
    pair = [read(place / f"{folder}/owl_3.png") for folder in ("owl", "redder")]
    sides, (over,) = found["said"]
    visible = pair[0][..., 3] > 0
    for text, expected in zip(sides, pair, strict=True):
        assert np.array_equal(pixels_of(text, expected)[visible], expected[visible])
    middle = np.arange(15) < 7  # of a view of an odd width, or an even one
    expected = np.where(middle[None, :, None], *pair)
    known = visible & (np.arange(15) != 7)
    assert (found["wrong"], np.array_equal(pixels_of(over, expected)[known], expected[known])) == ([], True)


def test_names_are_text_whatever_they_are(place: Path) -> None:
    names = [
        "<script>alert(1)</script>",
        "</script><img src=x onerror=alert(2)>",
        "\"'`${alert(3)}",
        "\u202eevil\x1b[2J",
    ]
    clips = tuple(
        Clip(name, Fraction(12), (Step(number, 3),), events=(Event(0, name),)) for number, name in enumerate(names)
    )
    file = viewed("owl", clips)
    found = asked({"file": str(file), "looks": [(name, "1/100") for name in names], "pixels": 1})[0]
    assert (found["wrong"], found["names"]) == ([], names)
    plain = asked({"file": str(viewed("blob", (Clip("a", Fraction(12), (Step(0, 3),)),))), "looks": []})[0]
    assert found["scripts"] - 1 == plain["scripts"] - len(read_manifest(place / "blob.kivel.json").pages)


def test_any_source_has_a_page_and_many_frames_open_soon(place: Path) -> None:
    for number in range(200):
        write(place / f"many/m_{number:03}.png", art(number, width=64, height=64))
    kivel.preview("many", out="many.html", fps=25)
    found = asked({"file": str(place / "many.html"), "looks": [("many", "199/25")], "pixels": 1})[0]
    assert (found["wrong"], found["shown"][0]["frame"]) == ([], 199)
    last = read(place / "many/m_199.png")
    pixels = pixels_of(found["shown"][0]["pixels"], last)
    assert np.array_equal(pixels[last[..., 3] > 0], last[last[..., 3] > 0])


@pytest.mark.parametrize(("made", "size"), [("sheet", "half"), ("sheet", "full"), ("atlas", "half")])
@pytest.mark.parametrize("direction", ["normal", "reverse"])
def test_a_clip_of_motion_is_warped_as_the_core_does(place: Path, made: str, size: Any, direction: str) -> None:
    for number, frame in enumerate(circling(16)):
        write(place / f"around/around_{number}.png", frame)
    kivel.resample("around", out="four", count=4, even=True, motion=True, motion_size=size)
    more: dict[str, Any] = {"turn": True} if made == "atlas" else {"gap": 2}
    getattr(kivel, made)("four", out="four.png", direction=direction, **more)
    sequence = open_sources(["four.kivel.json"], SourceSettings(1 << 20, with_motion=True))
    (clip,), (motion,) = sequence.clips, sequence.maps
    looks = [(clip.name, f"{number}/60") for number in range(1, 80, 5)]
    kivel.preview("four.kivel.json", out="four.html")
    (answer,) = asked({"file": str(Path("four.html").resolve()), "looks": looks, "pixels": len(looks)})
    assert answer["wrong"] == []
    for shown in answer["shown"]:
        one, other, weight = shown["frame"], shown["following"], shown["weight"]
        expected = frame_between(lambda n: sequence.frames[n].load(), one, other, weight, motion=motion)
        faded = frame_between(lambda n: sequence.frames[n].load(), one, other, weight)
        off = np.abs(to_light(pixels_of(shown["pixels"], expected)) - to_light(expected)) * 255
        assert (off <= 2).mean() > 0.999
        assert weight < 0.05 or np.abs(to_light(faded) - to_light(expected)).max() > 0.1
