"""The Django project: settings, addresses, server."""
