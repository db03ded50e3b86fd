"""Other people's data come in: what their fields and values mean, what is here already, mappings that are saved."""
