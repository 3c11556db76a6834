from django.apps import AppConfig


class RecordsConfig(AppConfig):
    name = "heath.records"
    label = "records"
