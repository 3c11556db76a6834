from django.urls import path

from heath.lineup import views

urlpatterns = [path("briefs/<int:pk>/line-up/", views.line_up, name="line-up")]
