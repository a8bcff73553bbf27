"""The shipped catalogue: generic, invented parts and materials as CSV files."""
