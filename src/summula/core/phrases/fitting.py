"""Whether a phrase fits a form, which forms suit it, and which one fits a phrase that has been changed."""

from __future__ import annotations

from typing import TYPE_CHECKING

from summula.core.phrases.additivity import adds_up
from summula.core.phrases.forms import BY_ROW_FORMS, FORMS, Form, FormNeeds, Purpose
from summula.core.phrases.phrase import Phrase, figures_shown, is_each_row
from summula.core.phrases.printing import print_measure

if TYPE_CHECKING:
    from summula.core.fields.heading import Heading

def why_not(phrase: Phrase, form: Form) -> str:
    """Why a phrase cannot be drawn in a form, with the remedy; empty when it can."""
    needs, figures = FORMS[form], figures_shown(phrase)
    by_row = [is_each_row(measure.calculation) for measure in figures]
    wrong = _figures_wrong(needs, len(figures), by_row)
    if wrong:
        return wrong
    if needs.purpose == "one figure" and (phrase.by or phrase.across):
        taken = _listed((*phrase.by, *phrase.across))
        return f"{needs.title} shows one measure: remove {taken} away, or put it after 'for each'"
    if needs.banded and any(by_row) and phrase.by:
        return f"{needs.title} cannot use 'by': put the heading after 'across', where it sets the colour"
    if needs.banded and not any(by_row):
        if len(phrase.by) != 1 or phrase.by[0].bands is None:
            return f"{needs.title} shows 'each row' of a number, or one number 'in bands' after 'by'"
        if not all(map(adds_up, phrase.measures)):
            return f"{needs.title} stacks values that add up: use rows, a sum or a count"
    if needs.sampled == "records" and any(by_row):
        taken = _listed((*phrase.by, *phrase.across))
        return f"A card for each row cannot have headings: remove {taken} away" if taken else ""
    if phrase.by and (needs.by == "no" or (needs.sampled == "points" and any(by_row))):
        rows = " of rows" if needs.sampled == "points" else ""
        return f"{needs.title}{rows} cannot use 'by': put the heading after 'across', where it sets the colour"
    if needs.sampled == "points" and not any(by_row) and not (phrase.by or phrase.across):
        return f"{needs.title} needs a heading after 'by', for a point each member; or 'each row' of both figures"
    if needs.by == "must" and not phrase.by:
        return f"To draw {needs.article}, add a heading after 'by'"
    if needs.across == "must" and not phrase.across:
        return f"To draw {needs.article}, add a heading after 'across'"
    if needs.across == "no" and phrase.across:
        return f"{needs.title} cannot use 'across': remove {_listed(phrase.across)} away"
    for side, headings in (("by", phrase.by), ("across", phrase.across)):
        if needs.headings and len(headings) > needs.headings:
            where = f" after '{side}'" if phrase.across else ""
            wanted = "one heading" if needs.headings == 1 else f"{needs.headings} headings"
            return f"{needs.title} needs {wanted}{where}: take one of {_listed(headings)} away"
    if needs.series and not phrase.across and len(phrase.measures) < 2:
        return f"To draw {needs.article}, add a heading after 'across' or a second measure"
    odd = next((each for each in phrase.measures if not adds_up(each)), None)
    if needs.additive and odd is not None:
        return f"{_capital(print_measure(odd))} does not add up, so it cannot be stacked: use columns or lines"
    return ""


def _figures_wrong(needs: FormNeeds, count: int, by_row: list[bool]) -> str:
    least, most = needs.figures
    if needs.sampled == "points" and count != 2:
        return f"{needs.title} compares two measures: use two, or one 'against' another"
    if needs.each_row == "must" and by_row != [True]:
        return f"{needs.title} shows single values: use one measure, 'each row' of a number"
    if needs.each_row == "may" and any(by_row) and not all(by_row):
        return f"{needs.title} of rows needs 'each row' in all measures"
    if needs.each_row == "no" and any(by_row):
        return "'each row' is many values: draw a histogram, a box plot or a scatter, or use median of it"
    if not least <= count <= most:
        if least == most:
            wanted = "one figure" if least == 1 else f"{least} figures"
            return f"{needs.title} shows {wanted}, not {count}: show {wanted}"
        return f"{needs.title} shows {least} to {most} measures, not {count}"
    return ""


def _capital(words: str) -> str:
    return words[:1].upper() + words[1:]


def _listed(headings: tuple[Heading, ...]) -> str:
    return ", ".join(dict.fromkeys(heading.field for heading in headings))


def fitting_form(phrase: Phrase) -> Form:
    """The phrase's form; another where its figures have just become the values themselves, or no longer are."""
    figures = figures_shown(phrase)
    by_row = any(is_each_row(measure.calculation) for measure in figures)
    if by_row and phrase.form not in BY_ROW_FORMS:
        return "scatter" if len(figures) > 1 else "box plot" if phrase.by else "histogram"
    needs = FORMS[phrase.form]
    lost = needs.each_row == "must" or (needs.banded and bool(why_not(phrase, phrase.form)))
    return "grid" if not by_row and lost else phrase.form


def suiting(phrase: Phrase, most: int = 8) -> tuple[Form, ...]:
    """The forms that suit a phrase, the likeliest first; the one it has among them."""
    dated = bool(phrase.by) and phrase.by[-1].part is not None
    first: tuple[Purpose, ...] = ("over time", "compare") if dated else ("compare", "parts of a whole")
    order = [each for each in FORMS.values() if not why_not(phrase, each.name)]
    order.sort(key=lambda each: (each.name != "grid", first.index(each.purpose) if each.purpose in first else 9))
    names = [each.name for each in order[:most]]
    if phrase.form not in names:
        names[-1:] = [phrase.form]
    return tuple(names)
