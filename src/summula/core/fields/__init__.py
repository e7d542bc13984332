"""Headings: a field, a part of a date, or bands of a number, as codes into ordered members."""

from summula.core.fields.bands import Bands
from summula.core.fields.heading import DatePart, Encoded, Heading, Member, Others, encode_heading
from summula.core.fields.labels import json_member, label_of

__all__ = [
    "Bands",
    "DatePart",
    "Encoded",
    "Heading",
    "Member",
    "Others",
    "encode_heading",
    "json_member",
    "label_of",
]
