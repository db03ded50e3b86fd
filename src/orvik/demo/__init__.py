"""The Isle of Quennet, which does not exist: made from a fixed seed, so that it is always the same."""
