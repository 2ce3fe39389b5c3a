"""Things to look at."""
