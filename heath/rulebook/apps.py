from django.apps import AppConfig


class RulebookConfig(AppConfig):
    name = "heath.rulebook"
    label = "rulebook"
