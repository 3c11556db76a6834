from django.urls import path

from heath.operations import views

urlpatterns = [
    path("health/live/", views.live, name="health-live"),
    path("health/ready/", views.ready, name="health-ready"),
]
