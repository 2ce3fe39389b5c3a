"""Preparing frames: each step is a pure function here, and is once in `table.py`."""
