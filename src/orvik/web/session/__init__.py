"""Open projects: their folder, a workspace for each, and the processes that do heavy work for them."""
