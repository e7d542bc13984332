"""What is found by words: entries, the words that people bring for them, and how they are matched."""
