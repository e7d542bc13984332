"""Everything that computes. No Qt, no globals: usable from a script, a test, a server."""
