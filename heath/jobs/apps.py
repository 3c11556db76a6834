from django.apps import AppConfig


class JobsConfig(AppConfig):
    name = "heath.jobs"
    label = "jobs"
