"""Describes what a source means: its frames, maps and clips, found, opened and carried together."""
