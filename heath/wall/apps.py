from django.apps import AppConfig


class WallConfig(AppConfig):
    name = "heath.wall"
    label = "wall"
