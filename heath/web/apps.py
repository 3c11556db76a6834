from django.apps import AppConfig


class WebConfig(AppConfig):
    name = "heath.web"
    label = "web"
