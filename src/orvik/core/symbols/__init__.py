"""The sign book: which sign a feature takes, and its portrayal as ink."""
