"""What the web server loads."""

import os
from threading import Timer

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "canopy_web.settings")
application = get_wsgi_application()

# So long after the start [s]
_AFTER_S = 1.0
# The library, the units and the light engine get warm while the first visitor signs in.
from canopy_web.drawing.example import warm  # noqa: E402

_warming = Timer(_AFTER_S, warm)
_warming.daemon = True
_warming.start()
