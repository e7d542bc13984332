"""Boards: panels on a grid of 24 columns, the slicers that move them, and the answers they show."""
