"""Describes what there is to say about a map of motion, in words and for scripts."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from kivel.core.wording import counted, first_few

if TYPE_CHECKING:
    from kivel.sequences.made_motion import MotionMade, PairMotion

__all__ = ["motion_document", "motion_lines", "motion_text"]

_IN_A_LINE = 8
_SHOWN = 32


def motion_lines(made: MotionMade) -> list[str]:
    """How well motion serves: over all, for each pair, and where frames are faded instead."""
    reach = max(made.map.motion.reach) if made.map.motion else 0
    said = [*_errors(made), f"reach {reach:g} px"]
    lines = [f"motion   {counted(len(made.pairs), 'pair')}, {', '.join(said)}"]
    for first in range(0, min(len(made.pairs), _SHOWN), _IN_A_LINE):
        part = made.pairs[first : first + _IN_A_LINE]
        lines.append(("  pairs  " if first == 0 else "         ") + ", ".join(_pair_text(pair, made) for pair in part))
    if len(made.pairs) > _SHOWN:
        lines[-1] += f", and {len(made.pairs) - _SHOWN} more (all with --json)"
    faded = [f"{pair.earlier}-{pair.later}" for pair in made.pairs if pair.fallback]
    if faded:
        lines.append(f"  faded  {first_few(faded)}: warping is not better there")
    if made.cuts:
        lines.append(f"  cuts   after {first_few([str(cut) for cut in made.cuts])}: no motion across")
    return lines


def _errors(made: MotionMade) -> list[str]:
    total = made.total
    if total.visible:
        share = f"{total.ratio:.2f} of it"
        return [f"fitted: frames left out are off by {total.error:.2f} of 255, {total.faded:.2f} cross-faded ({share})"]
    return ["estimated from these frames only; each pair with its confidence"]


def _pair_text(pair: PairMotion, made: MotionMade) -> str:
    name = f"{pair.earlier}-{pair.later}"
    if pair.missed:
        return f"{name} {pair.missed.ratio:.2f}"
    # between neighbours nothing is left out, to which motion could be fitted
    return f"{name} {'estimated, sure by ' if made.total.visible else ''}{pair.confidence:.0%}"


def motion_document(made: MotionMade | None) -> dict[str, Any]:
    """The same for scripts; nothing where there is no map."""
    if made is None or made.map.motion is None:
        return {}
    motion, total = made.map.motion, made.total
    content: dict[str, Any] = {
        "reach": list(motion.reach),
        "wrap": motion.wraps,
        "cuts": list(made.cuts),
        "pairs": [_pair_document(pair) for pair in made.pairs],
    }
    if total.visible:
        content |= {"error": round(total.error, 4), "faded": round(total.faded, 4), "ratio": round(total.ratio, 5)}
    return {"motion": content}


def _pair_document(pair: PairMotion) -> dict[str, Any]:
    content: dict[str, Any] = {"frames": [pair.earlier, pair.later], "fallback": pair.fallback}
    if pair.missed:
        missed = pair.missed
        content |= {"error": round(missed.error, 4), "faded": round(missed.faded, 4), "ratio": round(missed.ratio, 5)}
    return content | {"confidence": round(pair.confidence, 4)}


def motion_text(made: MotionMade) -> str:
    """A map that is there, in a line."""
    if made.map.motion is None or not made.pairs:
        return "a map without pairs"
    ratios = sorted(pair.ratio for pair in made.pairs if not pair.fallback and pair.ratio is not None)
    sure = sorted(pair.confidence for pair in made.pairs if not pair.fallback and pair.ratio is None)
    faded = [f"{pair.earlier}-{pair.later}" for pair in made.pairs if pair.fallback]
    reach = max(made.map.motion.reach)
    parts = [f"{counted(len(made.pairs), 'pair')}, reach {reach:g} px"]
    parts += (
        [f"fitted, {_span(f'{ratios[0]:.2f}', f'{ratios[-1]:.2f}')} of the error of cross-fading"] if ratios else []
    )
    parts += [f"estimated, sure by {_span(f'{sure[0]:.0%}', f'{sure[-1]:.0%}')}"] if sure else []
    parts += [f"faded: {first_few(faded)}"] if faded else []
    return ", ".join(parts)


def _span(least: str, most: str) -> str:
    """
    >>> _span("63%", "63%"), _span("0.24", "0.88")
    ('63%', '0.24 to 0.88')
    """
    return least if least == most else f"{least} to {most}"
