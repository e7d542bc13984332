"""Summula: flat tables in; pivot summaries, charts and sliced boards out."""

import os

# Nothing here multiplies matrices, but numpy starts threads for it that spin while the window opens.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

__version__ = "0.1.0"
