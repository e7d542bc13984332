"""numpy as `np`, imported when it is first asked for something: what a board showed last is painted before that.

Importing it takes longer than opening an empty window does.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

__all__ = ["np"]

if TYPE_CHECKING:
    import numpy as np
else:

    class _Later:
        """Asks numpy once for each name, and keeps the answer."""

        def __getattr__(self, name: str) -> Any:
            import numpy

            found = getattr(numpy, name)
            setattr(self, name, found)
            return found

    np = _Later()
