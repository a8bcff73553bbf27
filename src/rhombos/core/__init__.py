"""The computing core: no interface, no database, no files, no clock."""
