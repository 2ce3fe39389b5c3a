"""The work of each command, in rooms by what is made; `options` declares what each can be told."""
