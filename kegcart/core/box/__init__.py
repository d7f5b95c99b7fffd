"""The box: where everything stands in it, what is cut into its faces, what it weighs."""
