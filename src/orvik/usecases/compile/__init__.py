"""The Compile stage: features drawn, changed, imported; units formed; stations logged."""
