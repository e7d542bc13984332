"""What a board is made of: panels, slicers, the period ruler, and their arranging."""
