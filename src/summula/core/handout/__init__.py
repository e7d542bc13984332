"""What leaves the folio for people who only read: text, CSV, Markdown from grids and scenes."""
