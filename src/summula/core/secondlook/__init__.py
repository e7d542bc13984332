"""Second looks: quiet warnings about likely mistakes, one rule a function."""
