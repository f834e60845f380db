from __future__ import annotations

import asyncio

import pytest
from django.contrib.auth import get_user_model

from canopy_web.planning import actions


@pytest.fixture(autouse=True)
def _no_loop():
    """A browser that an earlier test drove keeps a loop running in this thread; what is tested here begins its own."""
    held = asyncio._get_running_loop()
    asyncio._set_running_loop(None)
    yield
    asyncio._set_running_loop(held)


@pytest.fixture
def grower(db):
    return get_user_model().objects.create_user("grower", password="tall-lamp-77")


@pytest.fixture
def other(db):
    return get_user_model().objects.create_user("other", password="tall-lamp-78")


@pytest.fixture
def row(grower, small_plan):
    return actions.create_plan(grower, small_plan)


@pytest.fixture
def mine(client, grower):
    client.force_login(grower)
    return client
