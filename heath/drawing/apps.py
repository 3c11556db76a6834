from django.apps import AppConfig


class DrawingConfig(AppConfig):
    name = "heath.drawing"
    label = "drawing"
