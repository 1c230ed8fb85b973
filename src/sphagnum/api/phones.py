"""A phone gets in: the codes it is shown, the devices that are in, and ending one."""

from __future__ import annotations

from typing import TYPE_CHECKING

from flask import Response, current_app, request
from pydantic import BaseModel, Field

from ..core.schema import Strict
from ..store.documents import Missing
from . import schemas as s
from .doors import Door
from .shared import answer, api
from .signed_in import Device

if TYPE_CHECKING:
    from ..network.front import Front


class Devices(Strict):
    """The devices that are signed in; ``this``: the one that asks, empty where none is needed."""

    devices: tuple[Device, ...]
    this: str


class Doorway(Strict):
    """One way to this workshop for a phone: where it leads in words, what the code says, and the code as a picture."""

    address: str
    opens: str
    code: str


class PhoneWay(Strict):
    """How a phone gets in: first it trusts the workshop (where the server speaks TLS itself), then it comes in by a ticket;
    ``sentence`` says what is missing where it cannot."""

    sentence: str
    trust: Doorway | None = None
    sha256: str = ""
    ways: tuple[Doorway, ...] = ()


class DevicePath(BaseModel):
    device_id: str = Field(pattern=r"^[0-9a-f]{16}$")


ALONE = "This server is reached from this machine alone: start it with sphagnum serve --tls, and a phone can be let in."
TAKEN = "The certificate cannot be handed out: another program listens on its port."
OPEN = "The door is open: no passphrase is set, and whoever reaches this server is in."


def _door() -> Door:
    found: Door = current_app.config["DOOR"]
    return found


def _front() -> Front | None:
    """What stands before the server where it speaks TLS itself."""
    found: Front | None = current_app.config.get("FRONT")
    return found


@api.get("/devices", responses={200: Devices})
def get_devices() -> Response:
    """The devices that are signed in."""
    door = _door()
    return answer(Devices(devices=door.devices.all(), this=door.device(request.headers.get("Cookie", ""))))


@api.delete("/devices/<string:device_id>", responses={200: s.Rows})
def end_device(path: DevicePath) -> Response:
    """A device comes in no more."""
    if not _door().devices.end(path.device_id):
        raise Missing("there is no such device")
    return answer(s.Rows(rows=()))


@api.post("/phone", responses={200: PhoneWay})
def open_for_a_phone() -> Response:
    """A fresh ticket as a code; where the server speaks TLS itself, the page with its certificate stays open a while longer."""
    front, door = _front(), _door()
    behind_proxy = (request.host_url.rstrip("/"),) if request.is_secure else ()
    addresses = behind_proxy if front is None else front.reached()
    if not addresses:
        return answer(PhoneWay(sentence=ALONE))
    ticket = f"/ticket#{door.devices.ticket()}" if door.passphrase else "/"
    trust, sentence = None, "" if door.passphrase else OPEN
    if front is not None:
        at = front.open_first_visit()
        trust, sentence = (None, TAKEN) if at is None else (_doorway(at, ""), sentence)
    return answer(PhoneWay(sentence=sentence, trust=trust, sha256="" if front is None else front.sha256,
                           ways=tuple(_doorway(a, ticket) for a in addresses)))


def _doorway(address: str, more: str) -> Doorway:
    from ..exchange.codes import code_picture  # what prints is loaded when it is needed first

    return Doorway(address=address, opens=address + more, code=code_picture(address + more))


@api.post("/phone/again", responses={200: s.Rows})
def stay_open() -> Response:
    """The page with the certificate stays open a while longer."""
    if (front := _front()) is not None:
        front.open_first_visit()
    return answer(s.Rows(rows=()))


@api.delete("/phone", responses={200: s.Rows})
def close_for_phones() -> Response:
    """The page with the certificate closes."""
    if (front := _front()) is not None:
        front.close_first_visit()
    return answer(s.Rows(rows=()))
