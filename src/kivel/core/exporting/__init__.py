"""Frames and clips for other programs: numbers, places on a texture, steps with their times."""
