"""One output period of bridge, filter and load: dead time in the edges, the link a capacitor fed by the front end."""
