"""The sizes of what is written around marks, in pixels."""

LABEL = 11.0  # along axes, in legends, on marks
LINE = 16.0  # from one line of them to the next
EDGE = 4.0  # between them and the edge of the canvas
