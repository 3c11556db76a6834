from django.apps import AppConfig


class PlannerConfig(AppConfig):
    name = "heath.planner"
    label = "planner"
