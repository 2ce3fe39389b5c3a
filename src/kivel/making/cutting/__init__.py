"""Sheets taken apart: into frames, or into a manifest alone."""
