"""The computation of Keg Cart: decisions in, figures and findings out.

Nothing here knows of Django, HTTP, the clock or unseeded chance.
"""
