"""From a phrase and a table to a grid: the fold, aggregates, keeping, comparisons, the order of members."""
