"""Second looks: quiet warnings about likely mistakes, one rule a function."""

from summula.core.secondlook.charts import STYLE_REMEDIES, chart_looks
from summula.core.secondlook.fields import field_looks, table_looks
from summula.core.secondlook.look import SecondLook
from summula.core.secondlook.remedies import mended
from summula.core.secondlook.summaries import summary_looks

__all__ = ["STYLE_REMEDIES", "SecondLook", "chart_looks", "field_looks", "mended", "summary_looks", "table_looks"]
