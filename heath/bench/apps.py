from django.apps import AppConfig


class BenchConfig(AppConfig):
    name = "heath.bench"
    label = "bench"
