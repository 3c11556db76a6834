"""The container in a photograph: its sides, its wall, its foot and rim, and the datum that they
give.
"""
