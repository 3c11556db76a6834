from django.urls import path

from heath.returns import views

urlpatterns = [
    path("pieces/<int:pk>/return/", views.issue, name="return"),
    path("pieces/<int:pk>/sheet/", views.sheet, name="sheet"),
    path("pieces/<int:pk>/sheet.pdf", views.sheet_pdf, name="sheet-pdf"),
]
