from django.urls import path

from heath.intake import views

urlpatterns = [
    path("pieces/<int:pk>/photograph/", views.add, name="photograph-add"),
    path("pieces/<int:pk>/row/", views.row, name="piece-row"),
    path("photographs/<int:pk>.jpg", views.picture, name="photograph"),
]
