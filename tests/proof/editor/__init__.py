"""What an editor looks for: errors made at random, each with what a right finding says of it."""
