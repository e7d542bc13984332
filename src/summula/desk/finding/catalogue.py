"""All that can be found: actions, pages, fields, settings, steps, parts of a phrase, chart types, the manual."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import TYPE_CHECKING, NamedTuple

from summula.core.charts.settings import SETTINGS, Setting, heeded
from summula.core.finding import synonyms
from summula.core.finding.entry import Entry
from summula.core.phrases.forms import FORMS, Form
from summula.desk.preparing.stepmaker import step_picks
from summula.desk.widgets.glyphs import KIND_WORDS
from summula.manual.pages import PAGES, sections

if TYPE_CHECKING:
    from summula.core.folio.model import Folio
    from summula.desk.phrase.phrasewords import PhrasePart

_PHRASE: tuple[tuple[PhrasePart, str, str], ...] = (
    ("where", "Filter rows", "a condition in the phrase"),
    ("keep", "Keep top or bottom members", "top N, top percent"),
    ("order", "Sort", "by a measure or a heading"),
    ("compare", "Compare: share, change, running total, rank", "percent of total, on the year before …"),
    ("measure", "Add a measure", "sum, mean, count …"),
    ("aggregate", "Change aggregate", "sum, mean, median, count …"),
    ("by", "Add rows: group by a field", "by …"),
    ("across", "Add columns: a field across", "across …"),
    ("multiples", "Small multiples: one chart for each member", "for each …"),
    ("target", "Compare with a target or budget", "a measure of a linked table"),
)


class ActionWords(NamedTuple):
    """What an action is found by."""

    key: str
    name: str
    hint: str
    keys: tuple[str, ...] = ()


def page_entries(folio: Folio) -> Iterator[Entry]:
    for number, (kind, page) in enumerate(folio.pages(), start=1):
        yield Entry("page", (page.id,), page.name, f"page {number} · {kind}")


def field_entries(folio: Folio) -> Iterator[Entry]:
    several = len(folio.tables) > 1
    for entry in folio.tables:
        for field in entry.fields:
            about = [KIND_WORDS[field.kind].split(":")[0], entry.name if several else "", field.description]
            yield Entry("field", (entry.id, field.name), field.name, " · ".join(part for part in about if part))


def action_entries(actions: Iterable[ActionWords]) -> Iterator[Entry]:
    for each in actions:
        keys = each.keys[0] if each.keys else ""
        yield Entry("action", (each.key,), each.name, each.hint, keys, synonyms.ACTIONS.get(each.key, ()))


def setting_entries(form: Form | None = None) -> Iterator[Entry]:
    """The settings that a form heeds; all of them where none is said."""
    settings: tuple[Setting, ...] = SETTINGS if form is None else heeded(form)
    for each in settings:
        name = each.group if each.words == each.group else f"{each.group}: {each.words}"
        yield Entry("setting", (each.group,), name, "chart setting", "", synonyms.SETTINGS.get(each.key, ()))


def step_entries() -> Iterator[Entry]:
    for each in step_picks():
        kind = each.value.__name__
        hint = f"preparation · {each.hint}" if each.hint else "preparation"
        yield Entry("step", (kind,), each.text, hint, "", synonyms.STEPS.get(kind, ()))


def phrase_entries() -> Iterator[Entry]:
    for key, name, hint in _PHRASE:
        yield Entry("phrase", (key,), name, hint, "", synonyms.PHRASE[key])


def form_entries() -> Iterator[Entry]:
    for form in FORMS:
        yield Entry("form", (form,), f"Chart type: {form}", "draw this summary so", "", synonyms.FORMS[form])


def manual_entries() -> Iterator[Entry]:
    for page in PAGES:
        for heading, _ in sections(page.text):
            name = f"How do I {heading.removeprefix('… ')}" if heading.startswith("… ") else heading
            yield Entry("manual", (page.file, heading), name, f"manual · {page.title}")


def everything(folio: Folio, actions: Iterable[ActionWords]) -> list[Entry]:
    """All that a window with this folio may offer, whichever page is in view."""
    return [
        *page_entries(folio), *action_entries(actions), *field_entries(folio), *phrase_entries(), *step_entries(),
        *setting_entries(), *form_entries(), *manual_entries(),
    ]  # fmt: skip
