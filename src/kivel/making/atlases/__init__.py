"""Atlases: frames of any size trimmed and packed tight on pages."""
