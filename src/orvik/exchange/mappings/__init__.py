"""What the fields and values of other people's files mean here."""
