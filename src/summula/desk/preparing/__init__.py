"""Preparing a table on the desk: the strip of steps, and a small form for each kind of step."""
