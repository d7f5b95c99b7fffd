from django.apps import AppConfig


class WorkbenchConfig(AppConfig):
    name = "kegcart.workbench"
    label = "workbench"
