"""Physics and practice that several stations share."""
