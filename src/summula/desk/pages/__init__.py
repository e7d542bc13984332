"""The pages: a table, a summary, a board, and nothing yet."""
