"""The manual: pages of Markdown, shown inside the program and read in docs/ alike."""
