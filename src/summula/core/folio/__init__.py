"""The document: tables, summaries and boards as one frozen value; its file; its history."""
