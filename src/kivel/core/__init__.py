"""Computation only: arrays and dataclasses in, arrays and dataclasses out. No files, no printing, no clock."""
