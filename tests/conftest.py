"""What all tests share."""

from __future__ import annotations

from hypothesis import settings

settings.register_profile("kivel", max_examples=40, deadline=None, derandomize=True)
settings.load_profile("kivel")
