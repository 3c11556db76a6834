from django.apps import AppConfig


class LineupConfig(AppConfig):
    name = "heath.lineup"
    label = "lineup"
