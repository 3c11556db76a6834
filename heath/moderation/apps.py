from django.apps import AppConfig


class ModerationConfig(AppConfig):
    name = "heath.moderation"
    label = "moderation"
