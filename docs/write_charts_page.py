"""Writes the tables of docs/charts.md from the program's own: forms with what they need, settings with what they may
be. Run it after a form or a setting is added; a test holds the page to it."""

from __future__ import annotations

from pathlib import Path

from summula.core.charts.drawers import DRAWERS
from summula.core.charts.settings import SETTINGS, Setting
from summula.core.phrases.forms import FORMS, FormNeeds

PAGE = Path(__file__).parent / "charts.md"
_BEGIN, _END = "<!-- {} -->", "<!-- end of {} -->"


def needs(form: FormNeeds) -> str:
    """What a form needs of a phrase, in words."""
    least, most = form.figures
    measures = f"{least} measure{'s' if least > 1 else ''}" if least == most else f"{least} or more measures"
    parts = [measures]
    if form.by == "must":
        parts.append("one heading after `by`" if form.headings == 1 else "a heading after `by`")
    if form.across == "must":
        parts.append("one after `across`")
    if form.across == "no":
        parts.append("none after `across`" if form.by == "must" else "no heading")
    if form.series:
        parts.append("`across` or a second measure")
    if form.each_row != "no":
        parts.append("`each row`" if form.each_row == "must" else "or `each row`")
    if form.banded:
        parts.append("or a number `in bands`")
    if form.additive:
        parts.append("figures that add up")
    if form.one_sign:
        parts.append("none below nothing")
    return ", ".join(parts)


def forms_table() -> str:
    lines = ["| form | for | needs | before slicing | heeds |", "| --- | --- | --- | --- | --- |"]
    for name, form in FORMS.items():
        groups = dict.fromkeys(each.group for each in SETTINGS if each.heeded_by(name))
        ghost = "pale behind" if form.ghost else ""
        lines.append(f"| `{name}` | {form.purpose} | {needs(form)} | {ghost} | {', '.join(groups) or '—'} |")
    assert len(lines) == len(DRAWERS) + 2
    return "\n".join(lines)


def may_be(setting: Setting) -> str:
    match setting.editor:
        case "choice":
            return " · ".join(words for _, words in setting.choices)
        case "number":
            low = "" if setting.low == float("-inf") else f"from {setting.low:g}"
            high = "" if setting.high == float("inf") else f"to {setting.high:g}"
            return " ".join(part for part in ("a number", low, high) if part) + (" or nothing" if setting.blank else "")
        case "flag":
            return "yes or no"
        case "text" | "pattern" | "lever" | "picture":
            words = {"text": "words", "pattern": "a pattern", "lever": "a lever's name", "picture": "a picture"}
            return words[setting.editor]


def settings_table() -> str:
    lines = ["| group | setting | key | may be | what it does |", "| --- | --- | --- | --- | --- |"]
    lines += [f"| {s.group} | {s.words} | `{s.key}` | {may_be(s)} | {s.hint} |" for s in SETTINGS]
    return "\n".join(lines)


def written(page: str) -> str:
    """The page with its tables as the program has them now."""
    for name, table in (("forms", forms_table()), ("settings", settings_table())):
        start, end = page.index(_BEGIN.format(name)), page.index(_END.format(name))
        page = page[:start] + _BEGIN.format(name) + "\n" + table + "\n" + page[end:]
    return page


if __name__ == "__main__":
    PAGE.write_text(written(PAGE.read_text("utf-8")), "utf-8")
