"""How steps and their effects read."""

from __future__ import annotations

from typing import TYPE_CHECKING

from summula.core.fields.labels import heading_name
from summula.core.phrases.printing import print_condition
from summula.core.preparation import steps as step_types

if TYPE_CHECKING:
    from summula.core.preparation.effect import Effect
    from summula.core.preparation.steps import AnyStep


def words(step: AnyStep) -> str:
    """A step in a few words: "Sailing no. is a code", "+ Net result"."""
    return _words(step)[:120]


def _some(names: tuple[str, ...]) -> str:
    return ", ".join(names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "")


def _words(step: AnyStep) -> str:
    match step:
        case step_types.SetKind():
            reading = f"{step.reading.replace(' ', '-')} " if step.reading in ("day first", "month first") else ""
            return f"{step.field} is a {reading}{step.kind}"
        case step_types.Rename():
            return f"{step.field} is called {step.name}"
        case step_types.DropFields():
            return f"without {_some(step.fields)}"
        case step_types.KeepFields():
            return f"only {_some(step.fields)}"
        case step_types.Tidy():
            what = {"spaces": "trim spaces", "lower": "small letters", "upper": "capital letters", "title": "capitals"}
            return what[step.how] + (f" in {_some(step.fields)}" if step.fields else "")
        case step_types.Replace():
            return (
                f"{step.field}: “{step.find}” becomes “{step.put}”" if step.put else f"{step.field}: no “{step.find}”"
            )
        case step_types.FillBlanks():
            return f"fill {step.field} " + ("from the row above" if step.above else f"with {step.value}")
        case step_types.Split():
            return f"split {step.field} at “{step.at}”"
        case step_types.Join():
            return f"+ {step.name} from {_some(step.fields)}"
        case step_types.Rows():
            where = " and ".join(print_condition(each) for each in step.where)
            return ("keep rows where " if step.keep else "remove rows where ") + where
        case step_types.DropDuplicates():
            return "remove duplicates" + (f" in {_some(step.fields)}" if step.fields else "")
        case step_types.Append():
            return f"add rows of {step.name}"
        case step_types.Unpivot():
            return f"{len(step.fields)} fields as rows: {step.name}, {step.value}"
        case step_types.AddLookup():
            return f"look up {_some(step.fields)}"
        case step_types.AddPart() | step_types.AddBands() | step_types.AddBundles() | step_types.AddFormula():
            return f"+ {step.name}"


def explained(step: AnyStep) -> str:
    """A step in full, for a tooltip or a screen reader."""
    match step:
        case step_types.AddFormula():
            return f"{step.name} = {step.text}"
        case step_types.AddPart():
            return f"{step.name}: {step.part} of {step.field}"
        case step_types.AddBands():
            from summula.core.fields.heading import Heading

            return f"{step.name}: {heading_name(Heading(step.field, bands=step.bands))}"
        case step_types.AddBundles():
            return "\n".join(f"{each.name}: {', '.join(each.members)}" for each in step.bundles)
        case step_types.AddLookup():
            keys = ", ".join(f"{key.mine} = {key.theirs}" for key in step.keys)
            return f"{', '.join(step.fields)} by {keys}"
        case _:
            return words(step)


def effect_words(effect: Effect) -> str:
    """What a step did: "312 rows fewer", "1,204 cells"."""
    if effect.lacks:
        return effect.lacks
    parts = []
    gained = effect.after - effect.before
    if gained:
        parts.append(f"{abs(gained):,} {'row' if abs(gained) == 1 else 'rows'} {'more' if gained > 0 else 'fewer'}")
    if effect.cells:
        parts.append(f"{effect.cells:,} {'cell' if effect.cells == 1 else 'cells'}")
    if effect.notice:
        parts.append(effect.notice)
    return " · ".join(parts) or "no effect here"
