"""What is judged of the log: what was recorded of steps, and what the build has lived through."""
