"""Frames laid out on pages: sheets, atlases, and plans of them."""
