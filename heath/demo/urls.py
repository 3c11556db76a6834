from django.urls import path

from heath.demo import camera

urlpatterns = [
    path("camera/", camera.camera, name="camera"),
    path("camera/picture/", camera.picture, name="camera-picture"),
]
