"""How far a brief's pieces are, as drawn strokes."""

from django.utils.html import format_html, format_html_join

STATES = (
    ("returned", "returned"),
    ("marked", "marked"),
    ("marking", "to be marked"),
    ("measuring", "being measured"),
    ("failed", "to take again"),
    ("waiting", "wait for a photograph"),
)


MOST_TICKS, TICK = 60, 9


TICKS = {
    "returned": "M{x} 2V18M{back} 14L{on} 6",
    "marked": "M{x} 2V18",
    "marking": "M{x} 10V18",
    "measuring": "M{x} 14V18",
    "failed": "M{back} 13L{on} 18M{on} 13L{back} 18",
    "waiting": "M{x} 17V18",
}


def tally(brief):
    """A brief's pieces as drawn strokes, one each: struck through when returned, whole when marked,
    half when to be marked, a dot before.
    """
    counts = [(name, words, getattr(brief, name)) for name, words in STATES]
    total = sum(n for *_, n in counts)
    if not total:
        return ""
    says = ", ".join(f"{n} {words}" for _, words, n in counts if n)
    if total > MOST_TICKS:
        return f"{total}"
    shapes, x = [], 4
    for name, _, n in counts:
        for _ in range(n):
            shapes.append((name, TICKS[name].format(x=x, back=x - 3, on=x + 3)))
            x += TICK
    body = format_html_join("", '<path class="{}" d="{}"/>', shapes)
    return format_html(
        '<svg class="tally" viewBox="0 0 {0} 20" width="{0}" height="20" role="img"'
        ' aria-label="{1}">{2}</svg>',
        x,
        says,
        body,
    )
