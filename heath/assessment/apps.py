from django.apps import AppConfig


class AssessmentConfig(AppConfig):
    name = "heath.assessment"
    label = "assessment"
