"""The computing core of Juniper Heath: from a photograph to a scored verdict. No web, no
database.
"""

VERSION = "0.9.2"
