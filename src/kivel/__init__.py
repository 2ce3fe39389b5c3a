"""Kivel packs animation frames into sheets and takes them out again, with exact playback metadata."""

__all__ = ["__version__"]

__version__ = "0.1.0"
