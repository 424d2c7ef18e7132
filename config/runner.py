"""Django's test runner, refusing to run where the append-only guard could not yield."""

import unittest

from django.conf import settings
from django.core.exceptions import ImproperlyConfigured
from django.test import SimpleTestCase, TestCase
from django.test.runner import DiscoverRunner


class OnItsOwn(unittest.TestCase):
    """A test with servers and a database of its own.

    These take longest, so they begin first: of two processes neither is left with one of them at the end.
    """


class CoatlogRunner(DiscoverRunner):
    """Discovers tests in coatlog and e2e."""

    reorder_by = (OnItsOwn, TestCase, SimpleTestCase)  # type: ignore[assignment]

    def setup_test_environment(self, **kwargs: object) -> None:
        if not settings.TEST_SESSIONS:
            raise ImproperlyConfigured("Run tests by ./coat test: it starts a throwaway database.")
        super().setup_test_environment(**kwargs)
