"""Small faults planted in the code one at a time, to see whether the tests notice: `make mutants`."""
