"""Headings: a field, a part of a date, or bands of a number, as codes into ordered members."""
