"""Django's test runner, refusing to run where the append-only guard could not yield; long classes first."""

from collections.abc import Sequence
from unittest import TestSuite

from django.conf import settings
from django.core.exceptions import ImproperlyConfigured
from django.test.runner import DiscoverRunner, ParallelTestSuite


class LongFirst(ParallelTestSuite):
    """Classes that say how long they take (`long_s`) begin first, so that none is left running alone."""

    def __init__(self, subsuites: Sequence[TestSuite], *args: object, **kwargs: object) -> None:
        def long_s(suite: TestSuite) -> int:
            return max((getattr(type(t), "long_s", 0) for t in suite), default=0)

        super().__init__(sorted(subsuites, key=long_s, reverse=True), *args, **kwargs)


class CoatlogRunner(DiscoverRunner):
    """Discovers tests in coatlog and e2e."""

    parallel_test_suite = LongFirst

    def setup_test_environment(self, **kwargs: object) -> None:
        if not settings.TEST_SESSIONS:
            raise ImproperlyConfigured("Run tests by ./coat test: it starts a throwaway database.")
        super().setup_test_environment(**kwargs)
