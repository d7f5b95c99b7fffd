import gc

from django.apps import AppConfig

YOUNG_OBJECTS = 20_000
"""An answer makes thousands of figures that die with it: collected at every 700, the collector takes a twentieth of the time."""


class WorkbenchConfig(AppConfig):
    name = "kegcart.workbench"
    label = "workbench"

    def ready(self) -> None:
        """What is loaded by now stays for good, and is not looked through again."""
        gc.set_threshold(YOUNG_OBJECTS, 10, 10)
        gc.freeze()
