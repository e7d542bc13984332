"""The phrase as data: what a summary shows, by what, across what; its words, its printing, its edits."""
