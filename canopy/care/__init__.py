"""Recurring work that a plan asks for: derived from it, laid out on days, and handed to calendars."""

from canopy.care.due import Due, due
from canopy.care.job import Job
from canopy.care.standing_by import Store, stores
from canopy.care.work import care_of

__all__ = ["Due", "Job", "Store", "care_of", "due", "stores"]
