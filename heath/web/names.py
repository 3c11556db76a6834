"""What the families of rules are called on page and paper."""

FAMILY_NAMES = {
    "proportion": "Proportion",
    "balance": "Balance",
    "focal": "Focal point",
    "colour": "Colour",
    "line": "Line",
    "finish": "Finish",
}
