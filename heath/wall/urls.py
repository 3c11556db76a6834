from django.urls import path

from heath.wall import views

urlpatterns = [
    path("briefs/<int:pk>/", views.wall, name="brief"),
    path("briefs/<int:pk>/line-up/", views.wall, {"line_up": True}, name="line-up"),
    path("pieces/<int:pk>/state/", views.state, name="piece-state"),
]
