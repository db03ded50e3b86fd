"""The symbol book: which symbol a feature takes, and its portrayal as ink."""
