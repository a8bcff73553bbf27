"""Stage templates, one module a stage, named as the field names them."""
