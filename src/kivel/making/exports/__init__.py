"""Describes what `kivel export` writes: the targets, and whole packs by a profile."""
