"""The figure graph: declarations, wiring, the two-level solve, and what follows from the graph alone."""
