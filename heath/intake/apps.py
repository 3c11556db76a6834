from django.apps import AppConfig


class IntakeConfig(AppConfig):
    name = "heath.intake"
    label = "intake"
