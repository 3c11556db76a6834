from django.apps import AppConfig


class ShelfConfig(AppConfig):
    name = "heath.shelf"
    label = "shelf"
