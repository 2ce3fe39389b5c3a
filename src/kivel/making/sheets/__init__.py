"""Frames laid out on pages: sheets, plans of them, and what atlases have in common with them."""
