"""The desk: PyQt6, and nothing but. Windows, pages and widgets that listen to one Session."""

import gc

gc.disable()  # nothing made while starting is garbage; `app` lets it begin once the window is there
