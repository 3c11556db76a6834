from django.apps import AppConfig


class BriefsConfig(AppConfig):
    name = "heath.briefs"
    label = "briefs"
