from django.urls import path

from heath.wall import views

urlpatterns = [path("briefs/<int:pk>/line-up/", views.line_up, name="line-up")]
