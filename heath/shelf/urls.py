from django.urls import path

from heath.shelf import views

urlpatterns = [
    path("containers/", views.shelf, name="shelf"),
    path("containers/<int:pk>/", views.container, name="container"),
    path("containers/<int:pk>/remove/", views.remove, name="container-remove"),
    path("containers/<int:pk>.jpg", views.picture, name="container-picture"),
]
