"""What every stage with switches shares: heat, ratings, cost of a position."""
