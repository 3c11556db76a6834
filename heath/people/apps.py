from django.apps import AppConfig


class PeopleConfig(AppConfig):
    name = "heath.people"
    label = "people"
