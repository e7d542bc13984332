"""The phrase on top of a summary: its words, their popovers, its text."""
