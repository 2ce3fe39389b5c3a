"""OpenRaster and OpenEXR files, written by other hands."""

from __future__ import annotations

import zipfile
from collections.abc import Callable
from pathlib import Path

import imagecodecs
import numpy as np
import OpenEXR
import pytest

from kivel.core.errors import KivelError
from kivel.core.pixels.pixels import Pixels
from kivel.files.exr import encoded_and_back
from kivel.files.images import open_image
from program import art

STACK = """<?xml version="1.0"?><image w="8" h="6"><stack>
<layer name="top" src="data/a.png" x="2" y="1"/>
<stack name="wings" opacity="0.5">
  <layer name="shine" src="data/c.png" composite-op="svg:multiply"/>
  <layer name="wing" src="data/b.png" visibility="visible"/>
</stack>
<layer name="note" src="data/b.png" visibility="hidden"/>
<layer name="ground" src="data/c.png" opacity="0.5"/>
</stack></image>"""


def ora(path: Path, stack: str = STACK, **data: bytes) -> Path:
    images = {"a": art(1, width=4, height=4), "b": art(2, width=8, height=6), "c": art(3, width=8, height=6)}
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("mimetype", "image/openraster")
        archive.writestr("stack.xml", stack)
        for name, image in images.items():
            archive.writestr(f"data/{name}.png", data.get(name, imagecodecs.png_encode(image)))
    return path


def test_each_visible_layer_is_a_frame_from_the_bottom_up(tmp_path: Path) -> None:
    frames = open_image(ora(tmp_path / "fly.ora"), max_pixels=1000, layers="layers")
    assert [frame.source for frame in frames] == ["fly.ora#ground", "fly.ora#wing", "fly.ora#shine", "fly.ora#top"]
    assert frames[0].notes == ("hidden layers skipped: note",)
    assert {frame.size for frame in frames} == {(8, 6)}
    ground, wing, _, top = (frame.load() for frame in frames)
    assert np.abs(ground[..., 3] - art(3, width=8, height=6)[..., 3] / 2).max() <= 0.5
    visible = art(1, width=4, height=4)[..., 3] > 0
    assert np.array_equal(top[1:5, 2:6][visible], art(1, width=4, height=4)[visible])
    assert not top[0].any()
    assert np.array_equal(wing[..., 3], art(2, width=8, height=6)[..., 3])


def test_each_group_is_a_frame_where_there_are_any(tmp_path: Path) -> None:
    frames = open_image(ora(tmp_path / "fly.ora"), max_pixels=1000)
    assert [frame.source for frame in frames] == ["fly.ora#ground", "fly.ora#wings", "fly.ora#top"]
    wings = frames[1].load()
    shine, wing = art(3, width=8, height=6) / 255, art(2, width=8, height=6) / 255
    alpha = 1 - (1 - shine[..., 3]) * (1 - wing[..., 3])
    assert np.abs(wings[..., 3] / 255 - alpha / 2).max() <= 0.6 / 255


@pytest.mark.parametrize(
    ("stack", "message"),
    [
        ("<image", "stack.xml: "),
        ("<frames/>", "expected an image with a stack"),
        ('<image w="8" h="x"><stack/></image>', "h='x' is not a number of pixels"),
        ('<image w="8" h="6"><stack/></image>', "it has no visible layer"),
        (STACK.replace("data/a.png", "../a.png"), "layer 'top': ../a.png is not in the archive"),
        (STACK.replace("svg:multiply", "svg:glow"), "composite-op 'svg:glow' is not supported"),
        (STACK.replace('w="8"', 'w="99999"'), "more than the limit of 1,000 pixels"),
        ('<!DOCTYPE i [<!ENTITY a "b">]><image w="8" h="6"><stack name="&a;"/></image>', "stack.xml: "),
        ('<image w="8" h="6">' + "<stack>" * 80 + "</stack>" * 80 + "</image>", "nested more than 64 deep"),
    ],
    ids=["cut", "other", "size", "empty", "outside", "blend", "huge", "entities", "deep"],
)
def test_damaged_stacks_are_told(tmp_path: Path, stack: str, message: str) -> None:
    with pytest.raises(KivelError) as caught:
        open_image(ora(tmp_path / "fly.ora", stack), max_pixels=1000)
    assert message in str(caught.value)
    assert str(caught.value).startswith((tmp_path / "fly.ora").as_posix())


def test_all_layers_of_a_frame_are_held_against_the_limit_together(tmp_path: Path) -> None:
    """A frame that is one layer takes its own room; a group takes that of all in it, and a canvas."""
    layers = '<layer name="l" src="data/c.png"/>' * 10
    flat, group = (f'<image w="8" h="6"><stack>{text}</stack></image>' for text in (layers, f"<stack>{layers}</stack>"))
    assert len(open_image(ora(tmp_path / "flat.ora", flat), max_pixels=96)) == 10
    with pytest.raises(KivelError, match="its layers and groups have 528 pixels together, more than the limit of 527"):
        open_image(ora(tmp_path / "group.ora", group), max_pixels=527)
    assert len(open_image(tmp_path / "group.ora", max_pixels=528)) == 1
    many = f'<image w="8" h="6"><stack>{layers * 410}</stack></image>'
    with pytest.raises(KivelError, match="it has 4,100 layers; at most 4,096 are read"):
        open_image(ora(tmp_path / "many.ora", many), max_pixels=1000)


def test_damaged_archives_and_layers_are_told(tmp_path: Path) -> None:
    whole = ora(tmp_path / "fly.ora").read_bytes()
    (tmp_path / "cut.ora").write_bytes(whole[:-30])
    ora(tmp_path / "text.ora", a=b"no image")
    bomb = bytes(imagecodecs.png_encode(art(1, width=4, height=4)))[:-12] + bytes(40 << 20)
    ora(tmp_path / "bomb.ora", a=bomb)
    for name, message in (
        ("cut", "a damaged archive"),
        ("text", "data/a.png is not a PNG"),
        ("bomb", "is larger than 4x4 px can be"),
    ):
        with pytest.raises(KivelError, match=message):
            open_image(tmp_path / f"{name}.ora", max_pixels=1000)


def test_damage_within_packed_members_is_told(tmp_path: Path) -> None:
    """As programs save them: deflated."""
    path = tmp_path / "fly.ora"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("stack.xml", STACK)
        for name in "abc":
            archive.writestr(f"data/{name}.png", imagecodecs.png_encode(art(1, width=8, height=6)))
    whole = path.read_bytes()
    assert len(open_image(path, max_pixels=1000)) == 3
    at = whole.index(b"stack.xml") + 9
    for length in range(0, 60, 3):
        path.write_bytes(whole[: at + length] + bytes([whole[at + length] ^ 0xFF]) + whole[at + length + 1 :])
        with pytest.raises(KivelError, match="damaged archive"):
            open_image(path, max_pixels=1000)


def exr(path: Path, channels: dict[str, Pixels], **header: object) -> Path:
    whole = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage, **header}
    OpenEXR.File(whole, channels).write(str(path))
    return path


@pytest.mark.parametrize("dtype", [np.float16, np.float32])
def test_float_frames_are_read_straight_and_linear(tmp_path: Path, dtype: type) -> None:
    stored: Pixels = np.array([[[0.5, 0.25, 2.0, 0.5], [3.0, 0, 0, 0]]], dtype)
    [frame] = open_image(exr(tmp_path / "a.exr", {"RGBA": stored}), max_pixels=100)
    assert (frame.depth, frame.size, frame.mode) == (32, (2, 1), "OpenEXR RGBA")
    assert frame.load().tolist() == [[[1.0, 0.5, 4.0, 0.5], [3.0, 0.0, 0.0, 0.0]]]


@pytest.mark.parametrize(("alpha", "read_as"), [(1.5, 1.0), (1.0, 1.0), (-0.5, 0.0), (np.nan, 0.0)])
def test_alpha_is_read_within_its_bounds(tmp_path: Path, alpha: float, read_as: float) -> None:
    stored: Pixels = np.array([[[0.5, 0.25, 2.0, alpha]]], np.float32)
    [frame] = open_image(exr(tmp_path / "a.exr", {"RGBA": stored}), max_pixels=100)
    assert frame.load()[0, 0].tolist() == [0.5, 0.25, 2.0, read_as]


def test_grey_layers_and_windows_are_placed(tmp_path: Path) -> None:
    grey = np.full((2, 3), 0.25, np.float32)
    windows = {
        "dataWindow": (np.array([1, 1], np.int32), np.array([3, 2], np.int32)),
        "displayWindow": (np.array([0, 0], np.int32), np.array([4, 3], np.int32)),
    }
    [frame] = open_image(exr(tmp_path / "y.exr", {"Y": grey}, **windows), max_pixels=100)
    image = frame.load()
    assert image.shape == (4, 5, 4)
    assert image[1, 1].tolist() == [0.25, 0.25, 0.25, 1]
    assert not image[0].any()
    named = {f"beauty.{channel}": grey for channel in "RGBA"} | {"Z": grey}
    [frame] = open_image(exr(tmp_path / "l.exr", named), max_pixels=100)
    assert frame.load()[0, 0].tolist() == [1, 1, 1, 0.25]


def test_damaged_float_files_are_told(tmp_path: Path) -> None:
    whole = exr(tmp_path / "a.exr", {"RGBA": np.ones((40, 40, 4), np.float32)}).read_bytes()
    path, grey = tmp_path / "cut.exr", np.ones((2, 2), np.float32)
    cases: dict[str, Callable[[], object]] = {
        "damaged or cut off OpenEXR": lambda: path.write_bytes(whole[:120]),
        "it has neither R, G and B nor Y; its channels are Z": lambda: exr(path, {"Z": grey}),
        "its header states 40x40 px of float, which count fourfold, more than the limit of 100 pixels": lambda: (
            path.write_bytes(whole)
        ),
    }
    for message, make in cases.items():
        make()
        with pytest.raises(KivelError, match=message):
            open_image(path, max_pixels=100)[0].load()


def test_what_is_written_is_read_back_as_the_manifest_says(tmp_path: Path) -> None:
    image = np.random.default_rng(1).random((5, 7, 4)).astype(np.float32) * 3
    image[..., 3] = np.minimum(image[..., 3], 1)
    image[0, 0, 3] = 0
    data, back = encoded_and_back(image)
    (tmp_path / "f.exr").write_bytes(data)
    [frame] = open_image(tmp_path / "f.exr", max_pixels=140)
    assert np.array_equal(frame.load(), back)
    assert np.allclose(frame.load(), image, rtol=1e-5)
