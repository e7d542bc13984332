"""What stands around every page: header, Contents, margin, status line, find-anything."""
