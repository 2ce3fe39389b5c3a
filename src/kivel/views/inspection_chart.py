"""An inspection as a picture: the frames, how much they change, where the centre of mass goes, how much is seen."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kivel.core.looping.seam import usual_change
from kivel.core.looping.signature import NEARLY, changes
from kivel.core.motion.motion_codes import decoded
from kivel.core.pixels.compose import over, to_8_bits
from kivel.core.pixels.pixels import Pixels, Size
from kivel.core.pixels.scaling import scaled
from kivel.core.wording import counted_from_0, printable
from kivel.sequences.inspection import Inspection
from kivel.sequences.made_motion import MotionMade
from kivel.views.charts import Chart
from kivel.views.loop_lines import seam_text

__all__ = ["draw_inspection"]

_INCHES, _DPI = (12.8, 8.0), 100
_STRIP = 12
_THUMB_PX = 160
_ARROWS = 24
"""This many beside each other, about."""
_BACK, _PANEL, _INK, _DIM = "#1c1f26", "#242832", "#eceef2", "#8b93a3"
_STEP, _SEAM, _MASS, _SECOND = "#6fa8dc", "#ffc861", "#e2725b", "#7fbf7f"


def draw_inspection(inspection: Inspection, load: Callable[[int], Pixels]) -> NDArray[np.uint8]:
    """(800, 1280, 4) uint8. `load` gives a frame's pixels by its index; a dozen are asked for."""
    chart = Chart(_INCHES, dpi=_DPI, back=_BACK)
    figure = chart.figure
    frames = inspection.frames
    count = len(frames.frames)
    title = f"{frames.stem}   {counted_from_0(count, 'frame')}, {inspection.sizes[0][0]} px"
    figure.text(0.02, 0.965, printable(title), color=_INK, fontsize=14, parse_math=False)
    motion = inspection.motion
    if motion:
        figure.text(0.02, 0.935, f"seam: {seam_text(motion.seam)}", color=_SEAM, fontsize=10)
    _draw_strip(figure, count, load)
    _draw_changes(figure.add_axes((0.05, 0.4, 0.93, 0.3)), inspection)
    _draw_path(figure.add_axes((0.05, 0.06, 0.27, 0.26)), inspection, load(count // 2))
    if inspection.vectors and inspection.vectors.pairs:
        _draw_vectors(figure.add_axes((0.40, 0.06, 0.26, 0.26)), inspection.vectors, load)
        _draw_pairs(figure.add_axes((0.73, 0.06, 0.25, 0.26)), inspection.vectors)
    else:
        _draw_mass(figure.add_axes((0.40, 0.06, 0.26, 0.26)), inspection)
        _draw_seen(figure.add_axes((0.73, 0.06, 0.25, 0.26)), inspection)
    return chart.pixels()


def _draw_strip(figure: Any, count: int, load: Callable[[int], Pixels]) -> None:
    """Frames evenly over the sequence, each with its number."""
    indices = sorted({round(index * (count - 1) / (_STRIP - 1)) for index in range(_STRIP)})
    for place, index in enumerate(indices):
        axes = figure.add_axes((0.02 + place * 0.0805, 0.74, 0.076, 0.17))
        axes.imshow(_thumbnail(load(index)), interpolation="nearest")
        axes.set_axis_off()
        axes.set_title(str(index), color=_DIM, fontsize=8, pad=3)


def _thumbnail(image: Pixels) -> NDArray[np.uint8]:
    height, width = image.shape[:2]
    share = min(1.0, _THUMB_PX / max(height, width))
    size = Size(max(1, round(width * share)), max(1, round(height * share)))
    return over(to_8_bits(scaled(image, size, filter="box")), "checker")


def _dressed(axes: Any, title: str, across: str, down: str = "") -> None:
    axes.set_facecolor(_PANEL)
    axes.set_title(title, color=_INK, fontsize=10, loc="left")
    axes.set_xlabel(across, color=_DIM, fontsize=8)
    axes.set_ylabel(down, color=_DIM, fontsize=8)
    axes.tick_params(colors=_DIM, labelsize=8)
    axes.xaxis.get_major_locator().set_params(integer=True)
    for spine in axes.spines.values():
        spine.set_color("#3a404d")


def _draw_changes(axes: Any, inspection: Inspection) -> None:
    """A bar for the change to each next frame, the seam in another colour, the usual change as a line."""
    signatures = inspection.signatures
    steps = changes(signatures) * 100
    count = len(signatures)
    seam = float(changes([signatures[-1], signatures[0]])[0]) * 100
    usual = usual_change(steps)
    axes.bar(range(count - 1), steps, color=_STEP, width=0.8, label="to the next frame")
    axes.bar([count - 1], [seam], color=_SEAM, width=0.8, label="seam: last to first")
    axes.axhline(usual, color=_INK, linewidth=0.8, linestyle="--", label="usual change")
    same = [index for index, step in enumerate(steps) if step < NEARLY * usual]
    if same:
        label = "nearly the same as the next"
        axes.plot(same, [0] * len(same), "v", color=_MASS, markersize=5, clip_on=False, label=label)
    axes.set_xlim(-0.6, count - 0.4)
    legend = axes.legend(fontsize=8, facecolor=_PANEL, edgecolor="#3a404d", ncols=4, loc="upper right")
    for text in legend.get_texts():
        text.set_color(_INK)
    axes.set_ylim(0, max(float(steps.max()), seam, 1e-9) * 1.25)
    title = "change from frame to frame" + _mirror_mark(axes, inspection)
    _dressed(axes, title, "frame", "% of full scale, root mean square")


def _mirror_mark(axes: Any, inspection: Inspection) -> str:
    """Shades what playing back and forth would save; what to say of it in the title."""
    mirror = inspection.motion.mirror if inspection.motion else None
    if mirror is None:
        return ""
    axes.axvspan(mirror.kept - 0.5, len(inspection.signatures) - 0.5, color=_SECOND, alpha=0.2, zorder=0)
    return f"   (from {mirror.kept} on it goes back: 0-{mirror.kept - 1} as ping-pong)"


def _points(inspection: Inspection) -> tuple[list[int], NDArray[np.float64]]:
    found = [(index, survey.mass) for index, survey in enumerate(inspection.surveys) if survey.mass]
    return [index for index, _ in found], np.array([point for _, point in found]).reshape(-1, 2)


def _draw_path(axes: Any, inspection: Inspection, middle: Pixels) -> None:
    """Where the mass goes, over the frame in the middle."""
    height, width = middle.shape[:2]
    axes.imshow(_dimmed(middle), extent=(0, width, height, 0), interpolation="nearest", aspect="equal")
    numbers, points = _points(inspection)
    if len(points):
        axes.plot(points[:, 0], points[:, 1], "-", color=_MASS, linewidth=1)
        axes.scatter(points[:, 0], points[:, 1], c=numbers, cmap="plasma", s=9, zorder=3)
    axes.set_xlim(0, width)
    axes.set_ylim(height, 0)
    _dressed(axes, "path of the centre of mass", "px")


def _dimmed(image: Pixels) -> NDArray[np.uint8]:
    return np.asarray(over(to_8_bits(image), (36, 40, 50))[..., :3] * 0.45 + np.array([20, 22, 27])).astype(np.uint8)


def _draw_mass(axes: Any, inspection: Inspection) -> None:
    numbers, points = _points(inspection)
    if len(points):
        centred = points - points.mean(axis=0)
        axes.plot(numbers, centred[:, 0], color=_MASS, linewidth=1.2, label="x")
        axes.plot(numbers, centred[:, 1], color=_STEP, linewidth=1.2, label="y")
        legend = axes.legend(fontsize=8, facecolor=_PANEL, edgecolor="#3a404d")
        for text in legend.get_texts():
            text.set_color(_INK)
    axes.axhline(0, color=_DIM, linewidth=0.6)
    _dressed(axes, "centre of mass, from its mean", "frame", "px")


def _draw_vectors(axes: Any, made: MotionMade, load: Callable[[int], Pixels]) -> None:
    """Where things go from one frame to the next, of the pair in the middle, over its first frame."""
    pair = made.pairs[len(made.pairs) // 2]
    assert made.map.motion is not None
    image = load(pair.earlier)
    height, width = image.shape[:2]
    axes.imshow(_dimmed(image), extent=(0, width, height, 0), interpolation="nearest", aspect="equal")
    vectors = decoded(made.map.load(pair.earlier), made.map.motion.reach)
    every = max(1, max(vectors.shape[1:]) // _ARROWS)
    part = vectors[:, every // 2 :: every, every // 2 :: every]
    share = height / vectors.shape[1]
    across, down = (np.arange(part.shape[axis]) * every + every // 2 + 0.5 for axis in (2, 1))
    seen = np.asarray(scaled(image, Size(vectors.shape[2], vectors.shape[1]), filter="box"))[..., 3]
    visible = seen[every // 2 :: every, every // 2 :: every] > 0
    rows, columns = np.nonzero(visible)
    axes.quiver(
        across[columns] * share, down[rows] * share, part[0][visible], part[1][visible],
        angles="xy", scale_units="xy", scale=1, color=_SEAM, width=0.004,
    )  # fmt: skip
    axes.set_xlim(0, width)
    axes.set_ylim(height, 0)
    _dressed(axes, f"motion from frame {pair.earlier} to {pair.later}", "px")


def _draw_pairs(axes: Any, made: MotionMade) -> None:
    """How sure the motion of each pair is; those that are faded are marked."""
    sure = [100 * pair.confidence for pair in made.pairs]
    axes.bar([pair.earlier for pair in made.pairs], sure, color=_SECOND, width=0.8)
    faded = [pair.earlier for pair in made.pairs if pair.fallback]
    axes.plot(faded, [2] * len(faded), "v", color=_MASS, markersize=5, clip_on=False)
    axes.set_ylim(0, 105)
    known = all(pair.ratio is not None for pair in made.pairs)
    title = ("error compared with cross-fading" if known else "confidence") + (
        f"   ({len(faded)} faded)" if faded else ""
    )
    _dressed(axes, title, "frame, to the next", "%")


def _draw_seen(axes: Any, inspection: Inspection) -> None:
    """How much of the canvas the visible pixels' box fills."""
    shares = [_share(inspection, index) for index in range(len(inspection.surveys))]
    axes.fill_between(range(len(shares)), shares, color=_SECOND, alpha=0.35, linewidth=0)
    axes.plot(range(len(shares)), shares, color=_SECOND, linewidth=1.2)
    axes.set_ylim(0, 105)
    _dressed(axes, "box of the visible pixels", "frame", "% of the canvas")


def _share(inspection: Inspection, index: int) -> float:
    size, bounds = inspection.frames.frames[index].size, inspection.surveys[index].bounds
    return 100 * bounds.w * bounds.h / (size.w * size.h) if bounds else 0.0
