"""From a source file to a table.

`readers` knows which reader takes which file. A reader finds out how the file is laid out (`ReadAs` overrules it) and
hands on its fields; `finish` senses their kinds and encodes them. Delimited text is read in blocks, each field growing.
"""
