from django.apps import AppConfig, apps


class WebConfig(AppConfig):
    name = "heath.web"
    label = "web"

    def ready(self):
        """Files are watched over once all models are known."""
        from heath.web.files import watch

        watch(m for m in apps.get_models() if m.__module__.startswith("heath."))
