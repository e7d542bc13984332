"""Find anything (Ctrl+K): what can be found in a window, and what is done with it."""
