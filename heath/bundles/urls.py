from django.urls import path

from heath.bundles import views

urlpatterns = [
    path("records/bundles/", views.bundles, name="bundles"),
    path("records/bundles/take-in/", views.take_in, name="bundle-take-in"),
]
