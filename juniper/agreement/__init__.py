"""How far markers agree: on awards, on marks, over the term, and what to mark a second time."""

from juniper.agreement.by_rule import RuleAgreement, by_rule
from juniper.agreement.intraclass import Intraclass, intraclass
from juniper.agreement.kappa import Kappa, weighted_kappa
from juniper.agreement.limits import Limits, limits_of_agreement
from juniper.agreement.sampling import sample_by_mark
from juniper.agreement.severity import Drift, Severity, drift, severities
from juniper.agreement.wording import icc_words, kappa_words

__all__ = [
    "Drift",
    "Intraclass",
    "Kappa",
    "Limits",
    "RuleAgreement",
    "Severity",
    "by_rule",
    "drift",
    "icc_words",
    "intraclass",
    "kappa_words",
    "limits_of_agreement",
    "sample_by_mark",
    "severities",
    "weighted_kappa",
]
