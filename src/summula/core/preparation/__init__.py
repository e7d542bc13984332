"""The way from the rows as they were read to the table that is worked with.

A preparation is a tuple of steps (`steps`), done in turn by `prepare`; the raw rows stay as they are. Derived fields
are steps too. Each step is a function `(Table, step, Tables) -> Done` in a module beside this one, entered in `doing`.
"""
