"""What the stand-ins are, and where each speaks."""

ABOUT: tuple[tuple[str, str, str], ...] = (
    (
        "A sensor hub",
        "/hub/berry-tent",
        "JSON: air, humidity, CO₂, roots, light, its battery; any other space by its name",
    ),
    ("Metering plugs", "/plug/berry-tent/fan", "JSON; told {“on”: false, “minutes”: 30} it switches; also …/lamps"),
    ("A light meter", "/meter/log.csv", "CSV with semicolons and decimal commas; /meter/survey.csv over each plant"),
    ("A weather station", "/weather", "JSON: air and humidity outdoors"),
)
