"""The job itself: rules and computation over plain values. No HTTP, no SQL, no HTML."""
