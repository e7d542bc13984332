"""The desk: PyQt6, and nothing but. Windows, pages and widgets that listen to one Session."""
