from django.apps import AppConfig


class ExemplarsConfig(AppConfig):
    name = "heath.exemplars"
    label = "exemplars"
