"""Slicers: controls that narrow the rows in play, as masks over cells, and what their members hold."""
