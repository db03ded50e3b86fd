"""Use cases: what web and command line both do. A transaction begins and ends here; types in, types out.

A use case that changes a project takes it first, makes one journal entry at the most, and refuses in our own words
before anything is written. ``seen`` is the revision that the person saw: a row that has changed since is refused.
"""
