"""Which form makes which step. To add one: a line in `FORMS`."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import msgspec

from summula.core.fields.labels import MONTHS
from summula.core.preparation import steps as step_types
from summula.core.preparation.steps import AnyStep, Step
from summula.core.tables.field import KINDS
from summula.desk.preparing.formparts import (
    ChoicePart,
    FieldPart,
    FieldsPart,
    FormPart,
    LimitsPart,
    NamePart,
    NamesPart,
    TextPart,
    TickPart,
    WherePart,
)

TEXTUAL = ("category", "code")
PARTS = (
    ("year", "year"), ("quarter of a year (Q2 2024)", "year-quarter"), ("month of a year (May 2024)", "year-month"),
    ("quarter (Q2)", "quarter"), ("month (May)", "month"), ("half of a year", "year-half"), ("half", "half"),
    ("week of a year", "year-week"), ("week", "week"), ("day of the week", "weekday"), ("day of the month", "day"),
    ("hour", "hour"),
)  # fmt: skip
_KINDS = tuple((kind, kind) for kind in KINDS)
READINGS = (
    ("as detected", ""), ("day first", "day first"), ("month first", "month first"), ("decimal point", "point"),
    ("decimal comma", "comma"),
)  # fmt: skip


def _part_name(values: dict[str, Any]) -> str:
    return f"{str(values.get('part', '')).replace('-', ' ').capitalize()} of {values.get('field', '')}"


class StepForm(msgspec.Struct, frozen=True):
    """A title, a line that says what the step is for, and its parts, made anew for every popover."""

    step: type[Step]
    title: str
    hint: str
    parts: Callable[[], list[FormPart]]


def made(form: StepForm, values: dict[str, Any]) -> AnyStep:
    """The step that a form's values stand for."""
    step: AnyStep = form.step(**values)  # type: ignore[assignment]
    return step


FORMS: tuple[StepForm, ...] = (
    StepForm(
        step_types.Tidy, "Clean text", "spaces and upper or lower case",
        lambda: [
            ChoicePart("how", "Operation", (("trim spaces", "spaces"), ("lower case", "lower"),
                                            ("upper case", "upper"), ("Title Case", "title"))),
            FieldsPart("fields", "In these fields (none: all text fields)", TEXTUAL),
        ],
    ),
    StepForm(
        step_types.Replace, "Replace text", "in a field's values",
        lambda: [
            FieldPart("field", "Field", TEXTUAL), TextPart("find", "Find"), TextPart("put", "Replace with"),
            TickPart("whole", "Whole values only"),
        ],
    ),
    StepForm(
        step_types.FillBlanks, "Fill blanks", "with a value or from the row above",
        lambda: [
            FieldPart("field", "Field"), TextPart("value", "With"), TickPart("above", "From the row above"),
        ],
    ),
    StepForm(
        step_types.Rows, "Filter rows", "rows that meet a condition",
        lambda: [
            ChoicePart("keep", "Matching rows are", (("kept", True), ("dropped", False))),
            WherePart("where", "Condition"),
        ],
    ),
    StepForm(
        step_types.DropDuplicates, "Remove duplicates", "keep only the first of identical rows",
        lambda: [FieldsPart("fields", "Compare these fields (none: all)")],
    ),
    StepForm(
        step_types.SetKind, "Change type", "what a field holds and how it is read",
        lambda: [
            FieldPart("field", "Field"), ChoicePart("kind", "Type", _KINDS), ChoicePart("reading", "Read", READINGS),
        ],
    ),
    StepForm(
        step_types.Rename, "Rename field", "", lambda: [FieldPart("field", "Field"), TextPart("name", "Name")]
    ),
    StepForm(
        step_types.DropFields, "Remove fields", "they return if you remove the step",
        lambda: [FieldsPart("fields", "Fields to remove")],
    ),
    StepForm(
        step_types.KeepFields, "Choose and order fields", "select the ones to keep, drag to reorder",
        lambda: [FieldsPart("fields", "Fields to keep, in this order", all_at_first=True)],
    ),
    StepForm(
        step_types.Split, "Split text", "one field into several",
        lambda: [FieldPart("field", "Field", TEXTUAL), TextPart("at", "Separator"),
                 NamesPart("names", "Names of the new fields", "From, To")],
    ),
    StepForm(
        step_types.Join, "Join text", "several fields into one",
        lambda: [FieldsPart("fields", "Fields, in this order"), TextPart("between", "Separator"),
                 NamePart(lambda values: " and ".join(values.get("fields", ())[:2]))],
    ),
    StepForm(
        step_types.Unpivot, "Turn wide fields into rows", "for example months in columns",
        lambda: [FieldsPart("fields", "Fields to turn"), TextPart("name", "Field for their names"),
                 TextPart("value", "Field for their values"), TickPart("blanks", "Keep rows with blank values")],
    ),
    StepForm(
        step_types.AddPart, "Date part", "a year, quarter, month … as a field",
        lambda: [
            FieldPart("field", "Date", ("date",)), ChoicePart("part", "Part", PARTS),
            ChoicePart("starts", "Year starts in", [(name, at) for at, name in enumerate(MONTHS, start=1)]),
            NamePart(_part_name),
        ],
    ),
    StepForm(
        step_types.AddBands, "Bands of numbers", "ranges, or labels by limits",
        lambda: [
            FieldPart("field", "Number", ("number",)),
            LimitsPart("bands", "Limits", "20   or   5, 10, 20   or   every 10"),
            NamesPart("labels", "Labels, from the lowest (optional)", "short, long"),
            NamePart(lambda values: f"{values.get('field', '')} band"),
        ],
    ),
)  # fmt: skip


def form_for(step: type[Step]) -> StepForm | None:
    return next((form for form in FORMS if form.step is step), None)
