"""The demo's mail: each message a file that any mail program opens, and none leaves the house."""

from __future__ import annotations

import secrets
from collections.abc import Iterator, Sequence
from email import message_from_bytes, policy
from email.message import EmailMessage as Message
from pathlib import Path

from django.conf import settings
from django.core.mail import EmailMessage
from django.core.mail.backends.base import BaseEmailBackend
from django.utils import timezone

_KEPT = 200


class EmlBackend(BaseEmailBackend):
    """Writes messages as files; of all of them the newest stay."""

    def send_messages(self, email_messages: Sequence[EmailMessage]) -> int:
        """Write each; gives how many."""
        folder = Path(settings.EMAIL_FILE_PATH)
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        for message in email_messages:
            name = f"{timezone.now():%Y%m%d-%H%M%S-%f}-{secrets.token_hex(3)}.eml"
            part = folder / f"{name}.part"
            part.write_bytes(message.message().as_bytes())
            part.rename(folder / name)
        for old in sorted(folder.glob("*.eml"))[:-_KEPT]:
            old.unlink(missing_ok=True)
        return len(email_messages)


def mail_to(address: str) -> Iterator[Message]:
    """Read the messages to an address, the newest first."""
    folder = Path(settings.EMAIL_FILE_PATH)
    for path in sorted(folder.glob("*.eml"), reverse=True) if address else ():
        found = message_from_bytes(path.read_bytes(), policy=policy.default)
        if address in str(found["To"]):
            yield found
