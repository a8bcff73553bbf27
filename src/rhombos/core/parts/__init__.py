"""Parts as the core sees them: tables of numbers by part type, passed in from outside."""
