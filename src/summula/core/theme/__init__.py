"""What all of the look is made of, without Qt: colours as tokens, and the shipped type faces with their widths."""
