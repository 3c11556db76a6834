from django.urls import path

from heath.briefs import views

urlpatterns = [
    path("briefs/new/", views.edit, name="brief-new"),
    path("briefs/<int:pk>/", views.detail, name="brief"),
    path("briefs/<int:pk>/palette/", views.palette, name="brief-palette"),
    path("briefs/<int:pk>/change/", views.edit, name="brief-change"),
]
