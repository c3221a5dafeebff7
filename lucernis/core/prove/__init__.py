"""What a meter will say, and what it means when it says something else."""
