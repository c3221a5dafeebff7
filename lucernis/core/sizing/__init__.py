"""Which wire and fuse each run gets."""
