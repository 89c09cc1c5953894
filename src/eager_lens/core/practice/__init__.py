"""Practice: a small job with a hidden fault on the simulated site, the customer's complaint, and an account at the end.

``lessons`` are the topics, ``drill`` draws one by its code, ``costs`` says what each handling costs, ``account`` looks back.
"""
