"""Frames made of frames: prepared, stacked, resampled, closed to loops; and the folders that they are written to."""
