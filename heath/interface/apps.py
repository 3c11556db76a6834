from django.apps import AppConfig


class InterfaceConfig(AppConfig):
    name = "heath.interface"
    label = "interface"
