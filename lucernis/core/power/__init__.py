"""The bank, what charges it, what it fits, what it costs."""
