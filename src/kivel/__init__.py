"""Kivel packs animation frames into sheets and takes them out again, with exact playback metadata.

Each command is a function here: `kivel.sheet("moth/", out="moth.png", layout="row", fps=12)` does what
`kivel sheet moth/ -o moth.png --layout row --fps 12` does, and returns what was made. `docs/python.md` says more.
"""

__version__ = "0.1.0"

_COMMANDS = (
    "inspect", "prep", "loop", "layer", "scroll", "channels", "resample", "plan", "sheet", "atlas", "slice", "adopt",
    "again", "retime", "timeline", "export", "profile", "check", "preview", "build",
)  # fmt: skip
_NAMES = {
    "BuildError": "kivel.recipe.build",
    "KivelError": "kivel.core.errors",
    "UsageError": "kivel.core.errors",
    "Cancelled": "kivel.making.work",
    "Note": "kivel.making.work",
    "Progress": "kivel.making.work",
    "AtlasMade": "kivel.making.atlases.atlas",
    "BuildMade": "kivel.recipe.build",
    "ChannelsMade": "kivel.making.frames.channels",
    "CheckMade": "kivel.making.checking.check",
    "ScrollMade": "kivel.making.frames.scroll",
    "ExportMade": "kivel.making.exports.export",
    "HandledSheets": "kivel.making.cutting.handled_sheets",
    "InspectMade": "kivel.making.looking.inspect",
    "LayerMade": "kivel.making.frames.layer",
    "LoopMade": "kivel.making.frames.loop",
    "Manifest": "kivel.files.manifest.model",
    "PlanMade": "kivel.making.sheets.plan",
    "PrepMade": "kivel.making.frames.prep",
    "PreviewMade": "kivel.making.looking.preview",
    "ProfileMade": "kivel.making.exports.profile",
    "ResampleMade": "kivel.making.frames.resample",
    "RetimeMade": "kivel.making.playback.retime",
    "SheetMade": "kivel.making.sheets.sheet_cells",
    "TimelineMade": "kivel.making.playback.timeline",
    "Written": "kivel.files.output_set",
}
"""Says what is public besides commands: errors, what is noted on the way, and what commands return."""

__all__ = ["__version__", *_COMMANDS, *_NAMES]


def __getattr__(name: str):  # type: ignore[no-untyped-def]  # any of them; typing would have to be loaded
    """Load a command, or a name of `_NAMES`, when it is first asked for."""
    from importlib import import_module

    if name in _COMMANDS:
        found = import_module("kivel.making.door").python_door(name)
    elif name in _NAMES:
        found = getattr(import_module(_NAMES[name]), name)
    else:
        raise AttributeError(f"module 'kivel' has no attribute {name!r}")
    globals()[name] = found
    return found


def __dir__() -> list[str]:
    return sorted({*globals(), *__all__})
