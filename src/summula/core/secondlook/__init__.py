"""Second looks: quiet warnings about likely mistakes, one rule a function."""

from summula.core.secondlook.rules import SecondLook, field_looks, mended, summary_looks, table_looks

__all__ = ["SecondLook", "field_looks", "mended", "summary_looks", "table_looks"]
