"""What the web server loads."""

import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "canopy_web.settings")
application = get_wsgi_application()

# The first visitor finds the library, the units and the light engine warm.
from canopy_web.drawing.example import example_view  # noqa: E402

example_view()
