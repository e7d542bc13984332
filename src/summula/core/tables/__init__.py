"""From a source file to a typed, encoded table.

A reader turns a file into text or typed series; sensing decides what each field holds (its kind);
encoding turns it into a column of small integers or exact numbers with blanks beside them. A table is
frozen: everything later is worked out from it, nothing is written back.

`readers`, `sensing` and `encoding` work with polars; columns, fields and tables do not know it, so what
only shows a table starts without it.
"""
