from django.apps import AppConfig


class ClassesConfig(AppConfig):
    name = "heath.classes"
    label = "classes"
