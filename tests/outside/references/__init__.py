"""Independent references: written from the standard or the physics, without a look at how the program does it. Of the
program they know the model of a plan and nothing else."""
