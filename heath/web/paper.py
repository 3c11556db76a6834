"""Pages as PDF, from templates, fetching nothing from outside."""

from collections.abc import Callable

# An address that cannot exist (RFC 2606): joined like any other, answered only from within.
INSIDE = "https://sheet.invalid/"


Pictures = dict[str, Callable[[], tuple[str, bytes]]]


def laid_out(html: str, pictures: Pictures):
    """A page laid out on paper; `pictures` answers its own addresses under INSIDE with (media
    type, bytes).
    """
    from heath.web.inside import rendered

    return rendered(html, pictures)


def pdf(html: str, pictures: Pictures) -> bytes:
    """PDF bytes of a page; see laid_out()."""
    return laid_out(html, pictures).write_pdf()
