"""Edge lists: when a bridge's voltage steps, and by how much."""
