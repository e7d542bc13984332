"""Pieces that know nothing of folios: lists, popovers, layouts, scenes and glyphs."""
