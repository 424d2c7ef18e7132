"""Django's test runner, refusing to run where the append-only guard could not yield."""

from django.conf import settings
from django.core.exceptions import ImproperlyConfigured
from django.test.runner import DiscoverRunner


class CoatlogRunner(DiscoverRunner):
    """Discovers tests in coatlog and e2e."""

    def setup_test_environment(self, **kwargs: object) -> None:
        if not settings.TEST_SESSIONS:
            raise ImproperlyConfigured("Run tests by ./coat test: it starts a throwaway database.")
        super().setup_test_environment(**kwargs)
