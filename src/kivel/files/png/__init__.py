"""PNG and APNG (PNG specification, third edition): exact reading, fast writing."""
