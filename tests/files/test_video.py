"""Videos that another library wrote: every frame in its place, at its time, with its pixels."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
import pytest
from numpy.typing import NDArray

from kivel.core.errors import KivelError
from kivel.core.pixels.pixels import Pixels, Size
from kivel.files.images import FrameSource, open_image
from kivel.files.video.writing import encode_video, video_times

av = pytest.importorskip("av")

SIZE = Size(32, 24)
NTSC = Fraction(24000, 1001)


class Coding(NamedTuple):
    """How a clip is stored; `exact` formats keep every pixel."""

    suffix: str
    codec: str
    pix_fmt: str
    options: dict[str, str]
    exact: bool = False


CODINGS = {
    "h264-b-frames": Coding(".mp4", "libx264", "yuv420p", {"bf": "3", "crf": "4", "g": "9"}),
    "h264-rgb": Coding(".mp4", "libx264rgb", "rgb24", {"qp": "0", "g": "5"}, exact=True),
    "h264-lossless": Coding(".mkv", "libx264", "yuv444p", {"qp": "0", "bf": "2"}, exact=True),
    "hevc": Coding(".mp4", "libx265", "yuv420p", {"x265-params": "log-level=none:crf=4:bframes=2"}),
    "vp8-hidden": Coding(".webm", "libvpx", "yuv420p", {"auto-alt-ref": "1", "lag-in-frames": "12", "b": "4M"}),
    "vp9-rgb": Coding(".webm", "libvpx-vp9", "gbrp", {"lossless": "1"}, exact=True),
    "vp9-alpha": Coding(".webm", "libvpx-vp9", "yuva420p", {"lossless": "1"}),
    "ffv1-alpha": Coding(".mkv", "ffv1", "bgra", {"slicecrc": "1", "g": "6"}, exact=True),
    "ffv1-10-bits": Coding(".mkv", "ffv1", "yuv444p10le", {}, exact=True),
    "animation": Coding(".mov", "qtrle", "argb", {}, exact=True),
    "png": Coding(".mov", "png", "rgba", {}, exact=True),
    "prores-alpha": Coding(".mov", "prores_ks", "yuva444p10le", {"profile": "4", "qscale": "2"}),
}


def picture(number: int) -> Pixels:
    """A frame that is grey in the middle, lighter by its number, with a soft edge and a dot."""
    image = np.full((SIZE.h, SIZE.w, 4), 255, np.uint8)
    image[..., :3] = 20 + 7 * number
    image[2:4, 2 + number % 20, :3] = 90, 160, 70
    image[:, :8, 3] = 128
    return image


def write(path: Path, coding: Coding, stamps: Sequence[int], tick: Fraction, last: int = 1) -> None:
    with av.open(str(path), "w") as out:
        stream = out.add_stream(coding.codec, options=coding.options)
        stream.width, stream.height, stream.pix_fmt = *SIZE, coding.pix_fmt
        stream.time_base = stream.codec_context.time_base = tick
        holds = {after - before for before, after in zip(stamps, [*stamps[1:], stamps[-1] + last], strict=True)}
        if len(holds) == 1:
            stream.codec_context.framerate = 1 / (holds.pop() * tick)
        for number, stamp in enumerate(stamps):
            frame = av.VideoFrame.from_ndarray(picture(number), format="rgba")
            frame = frame.reformat(format=coding.pix_fmt, dst_colorspace="ITU709", dst_color_range=1)
            frame.pts, frame.time_base = stamp, tick
            _mux(out, stream.encode(frame), stamps, last)
        _mux(out, stream.encode(None), stamps, last)


def _mux(out: Any, packets: Sequence[Any], stamps: Sequence[int], last: int) -> None:
    ends = dict(zip(stamps, [*stamps[1:], stamps[-1] + last], strict=True))
    for packet in packets:
        if packet.pts in ends:
            packet.duration = ends[packet.pts] - packet.pts
        out.mux(packet)


def frames(path: Path) -> list[FrameSource]:
    return open_image(path, max_pixels=1_000_000)


def held(*counts: int, tick: Fraction) -> list[Fraction]:
    return [count * tick for count in counts]


TIMINGS: dict[str, tuple[Fraction, Callable[[int], list[int]]]] = {
    "25 a second": (Fraction(1, 25), lambda count: [1] * count),
    "24000/1001": (1 / NTSC, lambda count: [1] * count),
    "variable": (Fraction(1, 50), lambda count: [1 + number * number % 5 for number in range(count)]),
}
CLIPS = [(coding, timing, first) for coding in CODINGS for timing in TIMINGS for first in (0, 3)]


@pytest.mark.parametrize(("coding", "timing", "first"), CLIPS)
def test_every_frame_is_there_at_its_time(tmp_path: Path, coding: str, timing: str, first: int) -> None:
    how = CODINGS[coding]
    tick, counts = TIMINGS[timing]
    holds = counts(7 + 4 * len(coding) % 13)
    if tick.denominator == NTSC.numerator:
        tick, holds = Fraction(1, 24000), [1001] * len(holds)
    stamps = [first * holds[0] + sum(holds[:number]) for number in range(len(holds))]
    path = tmp_path / f"clip{how.suffix}"
    write(path, how, stamps, tick, holds[-1])
    found = frames(path)
    rounded = how.suffix in (".mkv", ".webm") and timing == "24000/1001"
    assert [frame.duration for frame in found] == held(*holds, tick=tick)
    assert any("rounded" in note for note in found[0].notes) == rounded
    assert [frame.source for frame in found] == [f"clip{how.suffix}#{number}" for number in range(len(holds))]
    shown = [frame.load() for frame in found]
    scale = 257 if shown[0].dtype == np.uint16 else 1
    middle = [float(image[12:20, 16:28, 0].mean()) / scale for image in shown]
    assert np.abs(np.array(middle) - [20 + 7 * number for number in range(len(holds))]).max() < 3
    if "alpha" in coding or how.pix_fmt in ("argb", "rgba"):
        assert all(abs(float(image[:, 2:6, 3].mean()) / scale - 128) < 2 for image in shown)
    if how.exact and how.pix_fmt in ("rgb24", "gbrp", "bgra", "argb", "rgba"):
        channels = 4 if "a" in how.pix_fmt else 3
        for number, image in enumerate(shown):
            assert np.array_equal(image[..., :channels], picture(number)[..., :channels])


def test_frames_are_the_same_in_whatever_order_they_are_asked_for(tmp_path: Path) -> None:
    """Open groups too, in which frames before a keyframe are made from those of the group before."""
    coding = Coding(".mp4", "libx264", "yuv420p", {"bf": "3", "g": "8", "x264-params": "open-gop=1:scenecut=0"})
    write(tmp_path / "a.mp4", coding, range(33), Fraction(1, 24))
    expected = [frame.load() for frame in frames(tmp_path / "a.mp4")]
    for order in (range(32, -1, -1), range(0, 33, 5), np.random.default_rng(1).permutation(33)):
        again = frames(tmp_path / "a.mp4")
        assert all(np.array_equal(again[number].load(), expected[number]) for number in order)


def test_what_an_edit_list_cuts_off_is_no_frame(tmp_path: Path) -> None:
    coding = CODINGS["h264-b-frames"]
    write(tmp_path / "a.mp4", coding, range(-7, 20), Fraction(1, 24))
    found = frames(tmp_path / "a.mp4")
    assert [frame.duration for frame in found] == [Fraction(1, 24)] * 20
    assert abs(float(found[0].load()[15, 20, 0]) - (20 + 7 * 7)) < 3


def test_a_frame_that_is_hidden_is_none(tmp_path: Path) -> None:
    """VP8 has frames that only help others; one is made here of one that shows."""
    with av.open(str(tmp_path / "a.webm"), "w") as out:
        stream = out.add_stream("libvpx", options={"lag-in-frames": "0", "b": "4M"})
        stream.width, stream.height, stream.pix_fmt = *SIZE, "yuv420p"
        stream.time_base = stream.codec_context.time_base = Fraction(1, 1000)
        stream.codec_context.framerate = 25
        for number in range(10):
            frame = av.VideoFrame.from_ndarray(picture(number), format="rgba").reformat(format="yuv420p")
            frame.pts, frame.time_base = 40 * number, Fraction(1, 1000)
            for packet in stream.encode(frame):
                data = bytearray(bytes(packet))
                data[0] &= 0xFF if number != 4 else 0xEF
                changed = av.Packet(bytes(data))
                changed.stream, changed.time_base, changed.is_keyframe = stream, packet.time_base, packet.is_keyframe
                changed.pts, changed.dts = packet.pts, packet.dts
                out.mux(changed)
    found = frames(tmp_path / "a.webm")
    assert [frame.duration for frame in found] == [Fraction(hold, 25) for hold in (1, 1, 1, 2, 1, 1, 1, 1, 1)]
    assert abs(float(found[4].load()[15, 20, 0]) - (20 + 7 * 5)) < 4


@pytest.mark.parametrize("name", ["h264-b-frames", "hevc", "ffv1-alpha"])
def test_nothing_is_made_up_in_place_of_what_is_damaged(tmp_path: Path, name: str) -> None:
    coding = CODINGS[name]
    path = tmp_path / f"a{coding.suffix}"
    write(path, coding, range(24), Fraction(1, 25))
    expected = [frame.load() for frame in frames(path)]
    with av.open(str(path)) as container:
        packets = [packet for packet in container.demux(video=0) if packet.size]
    data = bytearray(path.read_bytes())
    at = packets[13].pos + packets[13].size // 3
    for place in range(at, at + packets[13].size // 3):
        data[place] ^= 0x5A
    path.write_bytes(data)
    given = [_given(frame) for frame in frames(path)]
    refused = [number for number, image in enumerate(given) if isinstance(image, str)]
    assert refused
    assert min(refused) >= 10
    for number, image in enumerate(given):
        if isinstance(image, str):
            assert f"frame {number}); export or copy it again, or choose frames before or after it" in image
        else:
            assert np.array_equal(image, expected[number])


def _given(frame: FrameSource) -> Pixels | str:
    try:
        return frame.load()
    except KivelError as error:
        return str(error)


@pytest.mark.parametrize("full", [False, True])
@pytest.mark.parametrize(("matrix", "red", "blue"), [(1, 0.2126, 0.0722), (5, 0.299, 0.114), (9, 0.2627, 0.0593)])
@pytest.mark.parametrize("bits", [8, 10])
def test_matrix_and_range_are_obeyed(
    tmp_path: Path, bits: int, matrix: int, red: float, blue: float, full: bool
) -> None:
    """By the formulas of ITU-T H.273, section 8.3, in float64."""
    largest = (1 << bits) - 1
    planes = np.random.default_rng(matrix).integers(0, largest, (3, SIZE.h, SIZE.w), endpoint=True).astype(np.uint16)
    pix_fmt = "yuv444p" if bits == 8 else "yuv444p10le"
    with av.open(str(tmp_path / "a.mkv"), "w") as out:
        stream = out.add_stream("ffv1", rate=25)
        stream.width, stream.height, stream.pix_fmt = *SIZE, pix_fmt
        stream.codec_context.colorspace, stream.codec_context.color_range = matrix, 2 if full else 1
        frame = av.VideoFrame(*SIZE, pix_fmt)
        for plane, values in zip(frame.planes, planes, strict=True):
            rows = np.zeros((SIZE.h, plane.line_size), np.uint8)
            wide = values.astype(np.uint8 if bits == 8 else "<u2")
            rows[:, : SIZE.w * wide.itemsize] = wide.view(np.uint8)
            plane.update(rows)
        frame.pts, frame.colorspace, frame.color_range = 0, matrix, 2 if full else 1
        out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    (found,) = frames(tmp_path / "a.mkv")
    shown = found.load().astype(float) / (255 if bits == 8 else 65535) * 255
    assert np.abs(shown[..., :3] - _rgb(planes.astype(float), bits, red, blue, full)).max() <= 0.53
    assert ("full" if full else "video") in found.mode
    assert found.notes == ()


def _rgb(planes: NDArray[np.float64], bits: int, red: float, blue: float, full: bool) -> NDArray[np.float64]:
    unit = 2 ** (bits - 8)
    luma, scale = ((0, 2**bits - 1), 2**bits - 1) if full else ((16 * unit, 219 * unit), 224 * unit)
    y = (planes[0] - luma[0]) / luma[1]
    cb, cr = (planes[1:] - 128 * unit) / scale
    r, b = y + 2 * (1 - red) * cr, y + 2 * (1 - blue) * cb
    g = (y - red * r - blue * b) / (1 - red - blue)
    image: NDArray[np.float64] = np.clip(np.dstack([r, g, b]), 0, 1) * 255
    return image


def test_a_turned_video_is_upright(tmp_path: Path) -> None:
    with av.open(str(tmp_path / "a.mov"), "w") as out:
        stream = out.add_stream("png", rate=25)
        stream.width, stream.height, stream.pix_fmt = *SIZE, "rgba"
        stream.set_display_rotation(90)
        frame = av.VideoFrame.from_ndarray(picture(3), format="rgba")
        out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    (found,) = frames(tmp_path / "a.mov")
    assert found.size == (SIZE.h, SIZE.w)
    assert np.array_equal(found.load(), np.rot90(picture(3)))


BAD = {
    "text": (b"#EXTM3U\n#EXT-X-TARGETDURATION:1\n#EXTINF:1,\n/etc/hostname\n", "not a video that Kivel can read"),
    "cut off": (b"\0\0\0\x18ftypisom\0\0\2\0isomiso2" + b"\0" * 40, "damaged or cut off"),
    "half a matroska": (b"\x1a\x45\xdf\xa3" + b"\x01" * 60, "damaged or cut off"),
}


@pytest.mark.parametrize("case", BAD)
def test_what_is_no_video_is_refused(tmp_path: Path, case: str) -> None:
    data, words = BAD[case]
    (tmp_path / "a.mp4").write_bytes(data)
    with pytest.raises(KivelError, match=words) as caught:
        frames(tmp_path / "a.mp4")
    assert "a.mp4" in str(caught.value)


def test_sound_alone_is_no_video(tmp_path: Path) -> None:
    with av.open(str(tmp_path / "a.mp4"), "w") as out:
        stream = out.add_stream("aac", rate=44100, layout="mono")
        frame = av.AudioFrame.from_ndarray(np.zeros((1, 4096), np.float32), format="fltp", layout="mono")
        frame.sample_rate = 44100
        out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    with pytest.raises(KivelError, match="no video in it"):
        frames(tmp_path / "a.mp4")


@pytest.mark.parametrize("suffix", [".mp4", ".webm"])
def test_what_is_written_shows_each_picture_for_its_time(suffix: str) -> None:
    """Read by the other library alone, as a player does."""
    holds = [Fraction(1, 12), Fraction(1001, 24000), Fraction(1, 4), Fraction(1, 12)]
    times = video_times(suffix, holds)
    pictures = [picture(4 * number) for number in range(4)]
    data = encode_video(suffix, [image[:, :-1] for image in pictures], times, Size(SIZE.w - 1, SIZE.h))
    assert data == encode_video(suffix, [image[:, :-1] for image in pictures], times, Size(SIZE.w - 1, SIZE.h))
    with av.open(_file(data)) as container:
        shown = list(container.decode(video=0))
    exact = Fraction(0) if suffix == ".mp4" else Fraction(1, 2000)
    for number, frame in enumerate(shown):
        assert abs(frame.pts * frame.time_base - sum(holds[:number])) <= exact
        middle = frame.to_ndarray(format="rgb24")[12:20, 16:28].mean()
        assert abs(float(middle) - (20 + 28 * number)) < 3
        assert (frame.width, frame.height) == SIZE
    assert bool(times.notes) == (suffix == ".webm")


def _file(data: bytes) -> Any:
    from io import BytesIO

    return BytesIO(data)
