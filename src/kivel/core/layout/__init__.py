"""Where frames go on a page."""
