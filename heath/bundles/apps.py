from django.apps import AppConfig


class BundlesConfig(AppConfig):
    name = "heath.bundles"
    label = "bundles"

    def ready(self):
        """Have the jobs that make and take in bundles known."""
        from heath.bundles import jobs  # noqa: F401
