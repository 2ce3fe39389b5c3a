"""Options of each command, `NAME_options.py`; how one is declared, and the groups that commands share."""
