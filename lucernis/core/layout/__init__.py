"""Ways of runs along the channels of the vehicle, and what lies on them."""
