"""Assembly: what the design is made of, what is bought and cut for it, and in what order it is built."""
