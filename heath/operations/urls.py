from django.urls import path

from heath.operations import metrics, views

urlpatterns = [
    path("health/live/", views.live, name="health-live"),
    path("health/ready/", views.ready, name="health-ready"),
    path("server/", views.server, name="server"),
    path("metrics/", metrics.metrics, name="metrics"),
]
