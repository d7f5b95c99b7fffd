"""Station Power path: from the posts of the pack to the last socket."""
