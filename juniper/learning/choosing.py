"""What a learner practises next: the weakest skill more often, at the edge of what they can do,
and each kind of exercise again when it is due.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime

import fsrs
import numpy as np

from juniper.learning.estimate import STEEP, Estimate, unknown
from juniper.learning.judging import GOOD, Outcome, Seen
from juniper.learning.kinds import KIND, KINDS, SKILLS, Kind

ROUND = 10  # exercises in a round
IN_A_ROW = 2  # exercises of one skill, before another takes its turn
# Share of right answers at which most is learnt of an exercise with two answers (R. Wilson et al.,
# "The eighty five percent rule for optimal learning", Nature Communications 10 (2019)).
EDGE = 0.85
WEAKER = 3.0  # power of a skill's error by which it comes more often than another
CURIOUS = 0.5  # of its uncertainty that is added to a skill's error, so that it is looked at
DAY = 86_400.0  # seconds
DUE = 2.0  # times as likely, an exercise that is due again

# Days until an exercise comes again: the scheduler's usual settings, without steps of minutes, as a
# round is one sitting, and without chance.
_SCHEDULER = fsrs.Scheduler(learning_steps=(), relearning_steps=(), enable_fuzzing=False)


@dataclass(frozen=True)
class Standing:
    """What is known of a learner: their estimates by skill, and by kind of exercise the card that
    says when it is due.
    """

    skills: Mapping[str, Estimate] = field(default_factory=dict)
    cards: Mapping[str, fsrs.Card] = field(default_factory=dict)

    def of(self, skill: str) -> Estimate:
        """What is known of a skill."""
        return self.skills.get(skill) or unknown()

    def after(self, kind: Kind, outcome: Outcome, now: datetime) -> Standing:
        """The standing after an exercise. `now` with its time zone."""
        estimate = self.rested(kind.skill, now)
        rating = rating_of(outcome, estimate)
        for seen in outcome.seen:
            estimate = estimate.after(seen)
        number = KINDS.index(kind) + 1
        card = self.cards.get(kind.code) or fsrs.Card(card_id=number, due=now)
        card, _ = _SCHEDULER.review_card(card, rating, now)
        return replace(
            self,
            skills={**self.skills, kind.skill: estimate},
            cards={**self.cards, kind.code: card},
        )

    def rested(self, skill: str, now: datetime) -> Estimate:
        """What is known of a skill now: less surely for each day since it was practised last."""
        last = [
            c.last_review
            for code, c in self.cards.items()
            if code in KIND and KIND[code].skill == skill and c.last_review is not None
        ]
        days = (now - max(last)).total_seconds() / DAY if last else 0.0
        return self.of(skill).rested(days)

    def due(self, now: datetime) -> tuple[str, ...]:
        """Codes of the kinds that were practised and are due again, the longest due first."""
        late = [(c.due, code) for code, c in self.cards.items() if c.due <= now and code in KIND]
        return tuple(code for _, code in sorted(late))

    def as_document(self) -> dict:
        """For JSON; Standing.read() takes it back."""
        return {
            "skills": {k: e.as_document() for k, e in self.skills.items()},
            "cards": {k: c.to_dict() for k, c in self.cards.items()},
        }

    @staticmethod
    def read(document: Mapping) -> Standing:
        """The standing of a document that as_document() made."""
        return Standing(
            {k: Estimate.read(e) for k, e in document.get("skills", {}).items()},
            {k: fsrs.Card.from_dict(c) for k, c in document.get("cards", {}).items()},
        )


def rating_of(outcome: Outcome, before: Estimate) -> fsrs.Rating:
    """How an answer is told to the scheduler: by its error against the learner's own and against
    what is called right.
    """
    size = outcome.scaled
    if size is None:
        return fsrs.Rating.Good if outcome.right else fsrs.Rating.Again
    if size <= 0.3 * GOOD:
        return fsrs.Rating.Easy
    if size <= GOOD:
        return fsrs.Rating.Good
    return fsrs.Rating.Hard if size < before.error else fsrs.Rating.Again


def weights_of(
    standing: Standing, skills: Collection[str], recent: Sequence[str] = ()
) -> dict[str, float]:
    """How likely each of some skills is to come next; they add up to 1. `recent` are the skills of
    the last exercises, the latest last: one that came IN_A_ROW times rests.
    """
    tired = recent[-1] if len(recent) >= IN_A_ROW and len(set(recent[-IN_A_ROW:])) == 1 else None
    raw = {}
    for skill in skills:
        e = standing.of(skill)
        rests = skill == tired and len(skills) > 1
        raw[skill] = 0.0 if rests else (e.error + CURIOUS * e.uncertainty) ** WEAKER
    total = sum(raw.values())
    return {s: w / total for s, w in raw.items()}


def next_kind(
    standing: Standing,
    kinds: Sequence[Kind],
    now: datetime,
    rng: np.random.Generator,
    recent: Sequence[str] = (),
) -> Kind:
    """The kind of exercise that comes next, of some; `recent` are the codes of the last ones, the
    latest last. Raises ValueError without kinds.
    """
    if not kinds:
        raise ValueError("There is nothing to choose from.")
    skills = [s.code for s in SKILLS if any(k.skill == s.code for k in kinds)]
    weights = weights_of(standing, skills, [KIND[c].skill for c in recent if c in KIND])
    skill = skills[int(rng.choice(len(skills), p=[weights[s] for s in skills]))]
    own, due = [k for k in kinds if k.skill == skill], standing.due(now)
    last = recent[-1] if recent else ""
    likely = np.array(
        [
            (DUE if k.code in due or k.code not in standing.cards else 1.0)
            * (0.25 if k.code == last and len(own) > 1 else 1.0)
            for k in own
        ]
    )
    return own[int(rng.choice(len(own), p=likely / likely.sum()))]


def wanted_strength(kind: Kind, estimate: Estimate) -> float:
    """How plain a case should be, in a beginner's errors, for EDGE of the answers to be right."""
    if kind.answer in ("pair", "order") or kind.code == "band":
        return 1.0364 * estimate.error  # Phi(1.0364) = .85
    found = (EDGE - kind.guess) / (1 - kind.guess)
    return float(estimate.error * (-math.log(1 - found) / math.log(2)) ** (1 / STEEP))


def seen_at(kind: Kind, strength: float, right: bool) -> Seen:
    """What a right or wrong answer tells at a plainness."""
    graded = kind.answer in ("pair", "order") or kind.code == "band"
    return Seen(kind.skill, right=right, strength=strength, guess=kind.guess, graded=graded)
