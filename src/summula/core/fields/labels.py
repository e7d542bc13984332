"""How members read: on screen, and in exact JSON."""

from __future__ import annotations

import re
from datetime import date
from decimal import Decimal
from functools import lru_cache
from typing import Any

from summula.core.fields.bands import Band
from summula.core.fields.heading import CLOCK_PATTERN, Heading, Hours, Member, Others
from summula.core.refusal import with_capital

MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
WEEKDAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")
BLANK = "(blank)"
_MINUS = "\N{MINUS SIGN}"


def label_of(heading: Heading, member: Member) -> str:
    """The member as a person reads it: "Q2", "May 2024", "10 to under 20", "6 others"."""
    if type(member) is str and heading.part is None:  # most are
        return member
    if member is None:
        return BLANK
    if isinstance(member, Others):
        return member.name or f"{member.size} {'other' if member.size == 1 else 'others'}"
    if isinstance(member, Band):
        return _band_label(member)
    if isinstance(member, bool):
        return "yes" if member else "no"
    if isinstance(member, date):
        return f"{member.day} {MONTHS[member.month - 1]} {member.year}"
    if heading.part is not None:
        return _part_label(heading.part, member)
    if isinstance(member, Hours):
        return clock_text(member)
    if isinstance(member, float):
        return f"{member:.10g}"
    return str(member)


def _part_label(part: str, member: str | int | float) -> str:
    part = part.removeprefix("fiscal ")
    if part == "month":
        return MONTHS[int(member) - 1]
    if part == "weekday":
        return WEEKDAYS[int(member) - 1]
    if part in ("quarter", "half", "week"):
        return f"{part[0].upper()}{member}"
    if part == "month-day":
        month, day = str(member).split("-")
        return f"{int(day)} {MONTHS[int(month) - 1]}"
    if part == "hour":
        return f"{int(member):02d}:00"
    if part == "year-month":
        year, month = str(member).split("-")
        return f"{MONTHS[int(month) - 1]} {year}"
    if part in ("year-quarter", "year-half", "year-week"):
        year, place = str(member).split("-")
        return f"{place} {year}"
    return str(member)


def _band_label(band: Band) -> str:
    if band.lower is None and band.upper is None:
        return "all"
    if band.lower is None:
        return f"under {limit_text(band.upper or 0.0, band.pattern)}"
    if band.upper is None:
        return f"{limit_text(band.lower, band.pattern)} and over"
    return f"{limit_text(band.lower, band.pattern)} to under {limit_text(band.upper, band.pattern)}"


_DIGITS_OF = re.compile(r"[#0][#0,.]*")


@lru_cache(maxsize=4096)
def limit_text(limit: float, pattern: str = "") -> str:
    """A limit of bands by its field's pattern (thousands marks, currency, percent), with as many decimals as it has."""
    if pattern == CLOCK_PATTERN:
        return clock_text(limit)
    first = pattern.split(";")[0]
    figures = _DIGITS_OF.search(first)
    percent = figures is not None and "%" in first[figures.end() :]
    exact = Decimal(repr(limit)) * (100 if percent else 1)
    if exact and not Decimal("1e-9") <= abs(exact) < Decimal("1e15"):
        text = f"{limit:g}"
    else:
        text = f"{abs(exact):,f}" if figures is None or "," in figures[0] else f"{abs(exact):f}"
        text = text.rstrip("0").rstrip(".") if "." in text else text
        text = f"-{text}" if exact < 0 else text
    if figures is None:
        return text
    sign, size = ("-", text[1:]) if text.startswith("-") else ("", text)
    return f"{sign}{first[: figures.start()]}{size}{first[figures.end() :]}".strip()


def clock_text(hours: float, *, seconds: bool = True) -> str:
    """Hours as hours and minutes, with seconds where there are any: 36:15, 0:00:30."""
    whole = abs(hours) * 3600
    if not seconds and whole >= 60:
        whole = round(whole / 60) * 60
    whole = round(whole, 3) if whole < 1e9 else float(round(whole))
    rest = whole % 60
    text = f"{int(whole // 3600):,}:{int(whole // 60 % 60):02d}"
    if rest:
        text += f":{rest:06.3f}".rstrip("0").rstrip(".") if rest != int(rest) else f":{int(rest):02d}"
    return f"{_MINUS}{text}" if hours < 0 and whole else text


def heading_name(heading: Heading) -> str:
    """The heading as a person reads it: "Route", "Year of Sailed on", "Delay (min) in bands"."""
    if heading.part is not None:
        return f"{with_capital(heading.part)} of {heading.field}"
    return f"{heading.field} in bands" if heading.bands is not None else heading.field


def all_name(heading: Heading) -> str:
    """All members of a heading together: "All Route", "All months", "All"."""
    if heading.part is not None:
        return f"All {heading.part.replace('half', 'halve')}s"
    return "All" if heading.bands is not None else f"All {heading.field}"


def json_member(member: Member) -> Any:
    """The member as exact JSON."""
    if isinstance(member, Others):
        return {"others": member.size}
    if isinstance(member, Band):
        return [member.lower, member.upper]
    if isinstance(member, date):
        return member.isoformat()
    return member
