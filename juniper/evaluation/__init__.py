"""How true the product is: figures on pictures whose truth is known, and sheets on which people
look.
"""
