from django.apps import AppConfig


class OperationsConfig(AppConfig):
    name = "heath.operations"
