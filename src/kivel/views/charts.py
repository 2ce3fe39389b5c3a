"""Charts, drawn with Matplotlib, which is an extra: it takes 80 MB, and most commands never draw a chart."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from kivel.core.errors import KivelError

__all__ = ["Chart", "ChartsError"]


class ChartsError(KivelError):
    """Matplotlib is not installed."""


class Chart:
    """A figure to draw on.

    Raises
    ------
    ChartsError
        If Matplotlib is not installed.
    """

    def __init__(self, inches: tuple[float, float], *, dpi: int, back: str) -> None:
        try:
            from matplotlib.backends.backend_agg import FigureCanvasAgg
            from matplotlib.figure import Figure
        except ImportError as error:
            raise ChartsError("charts need an extra package: pip install 'kivel[charts]'") from error
        self.figure: Any = Figure(figsize=inches, dpi=dpi, facecolor=back)
        self._canvas: Any = FigureCanvasAgg(self.figure)

    def pixels(self) -> NDArray[np.uint8]:
        """Return what is drawn, (H, W, 4) uint8."""
        self._canvas.draw()
        return np.asarray(self._canvas.buffer_rgba()).copy()
