"""Pages for what cannot be found or has gone wrong."""

from django.shortcuts import render


def not_found(request, exception):
    """404 in the house's words."""
    return render(request, "web/not_found.html", status=404)


def broken(request):
    """500; nothing that needs the database."""
    return render(request, "web/broken.html", status=500)
