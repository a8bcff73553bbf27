"""Loss and field models of windings and cores, as functions of SI numbers."""
