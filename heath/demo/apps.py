from django.apps import AppConfig


class DemoConfig(AppConfig):
    name = "heath.demo"
    label = "demo"
