"""Setting text of more than one line and more than one face: what is typed, where lines break, how they flow."""
