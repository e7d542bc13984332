"""The language of phrases: its words and grammar, reading and printing, what names mean, what may come next."""
