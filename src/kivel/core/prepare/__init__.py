"""Preparing frames: each step is a pure function here, and stands once in `table.py`."""
