"""How a grid is presented: its lines and columns, its figures' looks, plain records of it."""
