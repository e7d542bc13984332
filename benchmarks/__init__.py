"""Speed, as ratios to others doing the same work in the same run."""
