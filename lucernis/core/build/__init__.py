"""From a plan to what is bought, cut and crimped."""
