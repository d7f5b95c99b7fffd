"""Designs and their revisions, and the API that serves them to the screen."""
