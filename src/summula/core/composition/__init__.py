"""Pages as they are read: a board, a summary or a table as scenes, without Qt. The desk paints them, every format
writes them. What makes them is read in when the first is made: a window opens without."""
