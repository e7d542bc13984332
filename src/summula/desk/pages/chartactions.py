"""What a person does on a summary's chart, carried out: pointing, going deeper, stretches, how it looks."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace
from PyQt6.QtCore import QObject

from summula.core.boards.livefigures import LiveRows, has_live, live_words, with_live_words
from summula.core.charts.chart import Chart
from summula.core.charts.chart import chart_of as made_chart
from summula.core.charts.drawers import DRAWERS
from summula.core.charts.legend import LEGEND
from summula.core.charts.scene import Mark, Tag, Text
from summula.core.charts.settings import heeded, with_member_set_off
from summula.core.charts.style import PLAIN_STYLE, ChartStyle, Words
from summula.core.fields.labels import label_of
from summula.core.folio.model import Summary, with_summary
from summula.core.memory import Remembered
from summula.core.phrases.lever import with_levers
from summula.core.phrases.members import with_stretch
from summula.core.refusal import Refusal
from summula.desk.work import QUICK_ROWS

if TYPE_CHECKING:
    from summula.core.engine.grid import Grid
    from summula.core.fields.heading import Heading, Member
    from summula.desk.pages.summarypage import SummaryPage


# Words with live figures, by what they depend on beside the table that they hang on.
_LIVE_WORDS: Remembered[tuple[object, ...], Words] = Remembered("live words", most=8)


class ChartActions(QObject):
    """Listens to the chart of a summary's page; every change goes through the session."""

    def __init__(self, page: SummaryPage) -> None:
        super().__init__(page)
        self.page, self.session = page, page.session
        self.copied_style: ChartStyle | None = None
        page.chart.asked.connect(self.ask)
        page.chart.pointed.connect(self.point)
        page.chart.stretched.connect(self.stretch)

    def chart_of(self, summary: Summary, grid: Grid) -> Chart:
        """The chart of the answer, its live figures answered on the summary's own rows."""
        table, folio = self.session.table(summary.table), self.session.folio
        where = with_levers(summary.phrase, folio.levers).where
        rows = LiveRows(table, None, (), where, folio.levers, folio.read_at()[summary.table])
        chart = made_chart(grid, table, folio.look_of(summary))
        key = (chart.style.words, where, folio.levers)
        known = _LIVE_WORDS.get(table.memo, key)
        if known is not None:
            style = replace(chart.style, words=known)
            return replace(chart, look=replace(chart.look, style=style))
        if table.rows <= QUICK_ROWS or not has_live(chart.style.words):
            return with_live_words(chart, rows)

        def answered(words: Words) -> None:
            _LIVE_WORDS.put(table.memo, key, words)
            if self.page.summary == summary and self.page.grid is grid and not self.page.isHidden():
                self.page.show_grid(grid)

        self.page.side_work.ask(lambda: live_words(chart.style.words, rows), answered, self.page.refused)
        return chart

    def ask(self, tag: Tag) -> None:
        """A double click: the rows behind a figure; a member's name leads a heading deeper."""
        if tag.text:
            self.page.grid_actions.show_rows_of(tag)
        elif tag.by:
            self.page.grid_actions.look_into(*tag.by[-1])

    def point(self, mark: Mark | None) -> None:
        """A click: the settings of what was clicked stand in the margin. An entry of the legend sets its member off."""
        part = None if mark is None else getattr(mark, "part", "")
        if isinstance(mark, Text) and part == LEGEND and mark.full and self.page.summary is not None:
            style = with_member_set_off(self.page.summary.style, mark.full)
            if "Highlight" in {each.group for each in heeded(self.page.summary.phrase.form)}:
                self.session.edit(
                    with_summary(self.session.folio, replace(self.page.summary, style=style)), f"Set off {mark.full}"
                )
        self.page.summary_margin.point_at(part, self._member_of(mark))

    def _member_of(self, mark: Mark | None) -> tuple[Heading, Member] | None:
        """Whose ink a mark or an entry of the legend is drawn in; None where inks do not go by members."""
        grid = self.page.grid
        if grid is None or mark is None or self.page.summary is None:
            return None
        by_members = (
            DRAWERS[self.page.summary.phrase.form].told == "members" or self.page.summary.style.colour.by == "member"
        )
        axis = grid.rows if by_members else grid.columns
        if not axis.headings or len(grid.phrase.measures) > 1:
            return None
        if mark.tag is not None and mark.tag.text:
            pairs = mark.tag.by if by_members else mark.tag.across
            return pairs[-1] if pairs else None
        if isinstance(mark, Text) and mark.part == LEGEND:
            heading = axis.headings[-1]
            found = [each for each in axis.members[-1] if label_of(heading, each) == mark.full.split(" · ")[-1]]
            return (heading, found[0]) if found else None
        return None

    def stretch(self, tags: list[Tag]) -> None:
        """Members that the mouse was drawn over: they alone are kept, by a condition of the phrase."""
        several = self.page.phrase_now().multiples is not None
        paths = [tag.by[1:] if several else tag.by for tag in tags]
        phrase = with_stretch(self.page.phrase_now(), [each for each in paths if each])
        if phrase is None:
            self.session.refuse(
                Refusal("no condition keeps just these", "draw over others, or choose them after 'where'")
            )
        elif phrase != self.page.phrase_now():
            self.page.say(phrase, "Filter to this range")

    # -- how it looks ----------------------------------------------------------------------------------

    def copy_style(self) -> None:
        if self.page.summary is not None:
            self.copied_style = self.page.summary.style
            self.session.notice.emit("Open another summary and paste the style there (Ctrl+Alt+V)", False)

    def paste_style(self) -> None:
        if self.copied_style is not None:
            self._style(self.copied_style, "Paste style")

    def plain_style(self) -> None:
        self._style(PLAIN_STYLE, "Reset style")

    def _style(self, style: ChartStyle, edit_name: str) -> None:
        if self.page.summary is not None:
            self.session.edit(with_summary(self.session.folio, replace(self.page.summary, style=style)), edit_name)

    def make_default_style(self) -> None:
        """What is new in the folio looks like this summary: all but its own words and its chosen members."""
        if self.page.summary is not None:
            style = self.page.summary.style
            words, emphasis = Words(), style.emphasis
            emphasis = replace(emphasis, end="", members="") if emphasis.end == "members" else emphasis
            style = replace(style, words=words, emphasis=emphasis)
            self.session.edit(replace(self.session.folio, style=style), "Use this style for new charts")
