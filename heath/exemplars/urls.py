from django.urls import path

from heath.exemplars import views

urlpatterns = [
    path("exemplars/", views.exemplars, name="exemplars"),
    path("exemplars/<int:pk>/", views.change, name="exemplar-change"),
    path("pieces/<int:pk>/show/", views.offer, name="exemplar-offer"),
    path("pieces/<int:pk>/beside/", views.beside, name="exemplar-beside"),
]
