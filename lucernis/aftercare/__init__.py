"""After the build: what the record says of a vehicle, what is due, what is missing."""
