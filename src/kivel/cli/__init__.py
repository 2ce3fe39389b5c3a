"""The commands: parse, call, report."""
