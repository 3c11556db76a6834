from django.apps import AppConfig


class ReturnsConfig(AppConfig):
    name = "heath.returns"
    label = "returns"
