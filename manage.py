#!/usr/bin/env python
"""Django's own commands for Keg Cart. The everyday commands are in run.py."""

import os
import sys

if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "kegcart.site.settings")
    from django.core.management import execute_from_command_line

    execute_from_command_line(sys.argv)
