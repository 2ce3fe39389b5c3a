"""Measures of what goes wrong in an engine: each a function of pixels or clips, none of files."""
