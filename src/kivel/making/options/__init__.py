"""Options: how one is declared, and the groups that commands share."""
