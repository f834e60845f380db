#!/bin/sh
# Make sure that the tests find Debian's Chromium and nginx; installs them where we may.
set -e
missing=""
# The browser without windows, where Debian has it by itself.
browser=chromium
[ -x /usr/bin/chromium-headless-shell ] || [ -x /usr/bin/chromium ] || missing="$browser"
command -v nginx >/dev/null || [ -x /usr/sbin/nginx ] || missing="$missing nginx-light"
command -v openssl >/dev/null || missing="$missing openssl"
[ -z "$missing" ] && exit 0
if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
  echo "Installing for the tests: $missing"
  apt-get update -qq
  if apt-cache show chromium-headless-shell >/dev/null 2>&1; then missing=$(echo "$missing" | sed 's/^chromium\b/chromium-headless-shell/'); fi
  # shellcheck disable=SC2086
  DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $missing >/dev/null
else
  echo "The tests need these packages of Debian: apt-get install $missing" >&2
  exit 1
fi
