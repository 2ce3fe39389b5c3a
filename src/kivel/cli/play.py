"""Playing in the terminal."""

from __future__ import annotations

import math
import time
from fractions import Fraction
from typing import TYPE_CHECKING

from kivel.cli.report import Report
from kivel.cli.screen import Screen
from kivel.core.pixels.compose import over, to_8_bits
from kivel.core.pixels.pixels import Size
from kivel.core.playback.following import Chain
from kivel.core.playback.schedule import Picture
from kivel.core.wording import printable
from kivel.sequences.between_frames import motion_for
from kivel.views.pictures import picture_pixels
from kivel.views.terminal import half_blocks, scaled_to_window

if TYPE_CHECKING:
    from kivel.cli.screen import Screen
    from kivel.core.pixels.compose import Backdrop
    from kivel.core.playback.clip import Clip
    from kivel.core.playback.following import Chain
    from kivel.core.playback.schedule import Picture
    from kivel.making.looking.play import PlayMade
    from kivel.making.options.play_options import PlayOptions
    from kivel.sequences.sequence import FrameSequence

__all__ = ["before", "show"]


_KEYS = "space pause   left right step   up down speed   n p clip   e leave loop   home restart   q quit"
_PATIENCE = 0.25
"""Seconds after which the window's size is looked at again."""
_BLENDS = 30
"""Pictures a second of frames that blend."""
_LOW = 8
"""Lines of a window that has no room to name the keys."""
_SLOWEST, _FASTEST = Fraction(1, 64), Fraction(64)


def before() -> None:
    """Before anything is read: is there a terminal to play in?"""
    Screen()


def show(made: PlayMade, options: PlayOptions, _: Report) -> int:
    playing = _Playing(made.sequence, made.clips, options.speed, options.backdrop, options.show)
    with Screen() as screen:
        try:
            playing.run(screen)
        except KeyboardInterrupt:
            return 130
    return 0


class _Playing:
    """Which clip plays, how far it is, and what was drawn of it."""

    def __init__(
        self, sequence: FrameSequence, clips: list[Clip], speed: Fraction, backdrop: Backdrop, show: str
    ) -> None:
        self._frames = sequence.frames
        self._maps = sequence.maps
        self._clips = clips
        self._speed = speed
        self._backdrop: Backdrop = backdrop
        self._show = show
        self._all = list(clips)
        self._chain = _chain(clips[0], self._all)
        self._reached = Fraction(0)
        self._since: int | None = time.monotonic_ns()
        self._drawn: dict[tuple[Picture, str, int, int], list[str]] = {}

    def run(self, screen: Screen) -> None:
        """Until someone quits."""
        while True:
            now = self._now()
            screen.draw(self._lines(screen, now))
            key = (screen.key(self._wait(now)) or "").lower()
            if key in ("q", "escape"):
                return
            if key:
                self._obey(key)

    def _now(self) -> Fraction:
        """How far the clip is, in its own seconds."""
        if self._since is None:
            return self._reached
        return self._reached + Fraction(time.monotonic_ns() - self._since, 10**9) * self._speed

    def _hold_at(self, reached: Fraction, *, running: bool) -> None:
        self._reached = reached
        self._since = time.monotonic_ns() if running else None

    def _wait(self, now: Fraction) -> float:
        """Seconds until something else shows, or the window may have changed."""
        if self._since is None:
            return _PATIENCE
        upcoming = next((h.time for _, h in self._chain.happenings(now) if h.time > now), None)
        if upcoming is None:
            return _PATIENCE
        seconds = float((upcoming - now) / self._speed)
        player, _, moment = self._chain.at(now)
        if moment.weight or player.clip.blends:
            seconds = min(seconds, 1 / _BLENDS)
        return min(seconds, _PATIENCE)

    def _obey(self, key: str) -> None:
        now, running = self._now(), self._since is not None
        if key == " ":
            over = self._chain.length is not None and now >= self._chain.length
            self._hold_at(Fraction(0) if over else now, running=over or not running)
        elif key in ("right", "left"):
            self._hold_at(self._neighbour(now, forward=key == "right"), running=False)
        elif key in ("up", "down"):
            factor = Fraction(2) if key == "up" else Fraction(1, 2)
            self._hold_at(now, running=running)
            self._speed = min(max(self._speed * factor, _SLOWEST), _FASTEST)
        elif key == "home":
            self._chain = _chain(self._clips[0], self._all)
            self._hold_at(Fraction(0), running=running)
        elif key in ("n", "p"):
            turn = 1 if key == "n" else -1
            self._clips = self._clips[turn:] + self._clips[:turn]
            self._chain = _chain(self._clips[0], self._all)
            self._hold_at(Fraction(0), running=True)
        elif key == "e":
            self._leave(now)

    def _leave(self, now: Fraction) -> None:
        """Go on with the clip that follows the one that plays now, if one does."""
        playing = self._chain.at(now).player.clip
        follower = next((clip for clip in self._all if clip.name == playing.then), None)
        if follower is not None:
            self._chain = _chain(follower, self._all)
            self._hold_at(Fraction(0), running=True)

    def _neighbour(self, now: Fraction, *, forward: bool) -> Fraction:
        """When the next step begins to show, or the one before; the same time at either end."""
        chain = self._chain
        if forward:
            return next((h.time for _, h in chain.happenings(now) if h.time > now), now)
        begun = chain.begun(now)
        return chain.begun(begun - Fraction(1, 2) / chain.at(begun).player.clip.timebase) if begun > 0 else Fraction(0)

    def _lines(self, screen: Screen, now: Fraction) -> list[str]:
        columns, lines = screen.size
        picture = self._picture(now)
        below = [self._status(now), _KEYS] if lines > _LOW else [self._status(now)]
        room = max(1, lines - len(below))
        clip = self._chain.at(now).player.clip
        key = picture, clip.interpolation, columns, room
        if key not in self._drawn:
            if len(self._drawn) > 4 * len(self._frames) + 64:
                self._drawn.clear()
            self._drawn[key] = self._pictured(picture, clip, columns, room)
        return [*self._drawn[key], *(line[: columns - 1] for line in below)][:lines]

    def _picture(self, now: Fraction) -> Picture:
        player, _, moment = self._chain.at(now)
        if not moment.weight:
            return Picture(moment.frame)
        parts = max(1, math.ceil(player.clip.seconds(player.clip.steps[moment.step or 0].hold) * _BLENDS))
        weight = Fraction(math.floor(moment.weight * parts), parts)
        return Picture(moment.frame, moment.following, weight) if weight else Picture(moment.frame)

    def _pictured(self, picture: Picture, clip: Clip, columns: int, lines: int) -> list[str]:
        image = to_8_bits(picture_pixels(picture, self._frames, self._show, motion_for(clip, self._maps)))
        image = scaled_to_window(image, Size(columns, 2 * lines))
        left = " " * ((columns - image.shape[1]) // 2)
        drawn = [left + line for line in half_blocks(over(image, self._backdrop))]
        above = (lines - len(drawn)) // 2
        return [""] * above + drawn + [""] * (lines - len(drawn) - above)

    def _status(self, now: Fraction) -> str:
        player, _, moment = self._chain.at(now)
        clip = player.clip
        frame = "nothing" if moment.frame is None else f"frame {moment.frame}"
        step = "" if moment.step is None else f"step {moment.step} of 0-{len(clip.steps) - 1}"
        state = "ended" if moment.ended else "paused" if self._since is None else f"x {self._speed}"
        then = f"then {printable(clip.then)}" if clip.then is not None else ""
        parts = [printable(clip.name), frame, step, f"cycle {moment.cycle}", f"{float(now):.2f} s", state, then]
        return "  ".join(part for part in parts if part)


def _chain(clip: Clip, clips: list[Clip]) -> Chain:
    return Chain(clip, clips)
