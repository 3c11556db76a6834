"""What figures of agreement are called."""

from __future__ import annotations

# Koo & Li 2016 (Journal of Chiropractic Medicine 15): an ICC from each figure on.
ICC = ((0.9, "excellent"), (0.75, "good"), (0.5, "moderate"))
# Landis & Koch 1977 (Biometrics 33): a kappa from each figure on.
KAPPA = ((0.81, "almost perfect"), (0.61, "substantial"), (0.41, "moderate"), (0.21, "fair"))


def icc_words(value: float) -> str:
    """What an intraclass correlation is called.

    >>> icc_words(0.76), icc_words(0.2)
    ('good', 'poor')
    """
    return next((words for least, words in ICC if value >= least), "poor")


def kappa_words(value: float) -> str:
    """What a kappa is called.

    >>> kappa_words(0.65), kappa_words(0.1), kappa_words(-0.1)
    ('substantial', 'slight', 'poor')
    """
    if value < 0:
        return "poor"
    return next((words for least, words in KAPPA if value >= least), "slight")
