"""The page: its paper, what may be set on a part and how it is typed, texts and files that sheets use."""
