"""Starting and stopping: the database of our own, and the server."""
