"""From a report to proposals: what mends a margin, backwards from the plants, first layouts, whole kits.

Everything here reads a report that is at hand and proposes changes; nothing here judges, and nothing that judges
imports it.
"""
