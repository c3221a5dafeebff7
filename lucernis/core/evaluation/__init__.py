"""Everything there is to say about a plan, put together."""
