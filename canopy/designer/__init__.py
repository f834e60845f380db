"""All subjects at once, worked backwards: the whole kit for a request, and everything mended in a plan that stands."""
