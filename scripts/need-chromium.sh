#!/bin/sh
# Make sure that the browser tests find Debian's Chromium; installs it where we may.
set -e
[ -x /usr/bin/chromium ] && exit 0
if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
  echo "Installing Chromium for the browser tests"
  apt-get update -qq
  DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends chromium >/dev/null
else
  echo "The browser tests need /usr/bin/chromium: apt-get install chromium" >&2
  exit 1
fi
