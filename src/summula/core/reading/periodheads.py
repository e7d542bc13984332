"""Fields that are called by periods of time: a column a month, a quarter, a year or a day."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from summula.core.tables.column import NumberColumn
from summula.core.tables.dates import may_be_date, period_of
from summula.core.tables.monthnames import MONTH_OF
from summula.core.tables.natural import folded

if TYPE_CHECKING:
    from summula.core.tables.table import Table

_LEAST = 3
_YEAR = re.compile(r"^(?:FY ?)?(1[89]\d\d|20\d\d|21\d\d)$", re.IGNORECASE)


def period_of_head(name: str) -> str:
    """What kind of time a name is: "year", "quarter", "half", "month", "week", "day"; empty where it is none."""
    text = name.strip()
    if _YEAR.match(text):
        return "year"
    if folded(text).rstrip(".") in MONTH_OF:
        return "month"
    period = period_of(text)
    if period is not None:
        return period[0] if not re.fullmatch(r"\d{6}", text) or "1900" <= text[:4] <= "2100" else ""
    return "day" if any(sign in text for sign in "-/. ") and may_be_date(text) and re.search(r"\d", text) else ""


def period_fields(table: Table) -> list[int]:
    """The fields that stand side by side, of numbers, and are called by periods of one kind; empty where they are not
    at least three, and most of the numbers there are."""
    kinds = [
        period_of_head(field.name) if isinstance(column, NumberColumn) else ""
        for field, column in zip(table.fields, table.columns, strict=True)
    ]
    usual = max(set(kinds), key=lambda kind: (kinds.count(kind) if kind else 0, kind), default="")
    found = [at for at, kind in enumerate(kinds) if kind == usual]
    if not usual or len(found) < _LEAST:
        return []
    blank_too = [
        at
        for at, field in enumerate(table.fields)
        if found[0] < at <= found[-1] + 1
        and at not in found
        and getattr(table.columns[at], "members", None) == ()
        and period_of_head(field.name) == usual
    ]  # a month that has no figures yet
    whole = sorted({*found, *blank_too})
    together = whole[-1] - whole[0] + 1 == len(whole)
    return found if together else []


def period_word(names: list[str]) -> str:
    """The kind of time that most of these names are."""
    kinds = [period_of_head(name) or "period" for name in names]
    return max(set(kinds), key=kinds.count)
