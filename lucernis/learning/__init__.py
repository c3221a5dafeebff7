"""When to train what: the published scheduler over skills, progress, what to do next."""
