"""The heater loop: battery, feed, loom, plug, element, loom, module driver, ground.

Low side:  battery - relay - fuse - loom - heater_supply - element - heater_control - loom - driver - ground.
High side: battery - relay - fuse - driver - loom - heater_supply - element - heater_control - chassis.
Phases are ``on`` and ``off``, the driver's. All faults are additions along ports, as ``network`` explains.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from dianoia.case.setting import Setting
from dianoia.case.terms import HeaterSwitch
from dianoia.circuit.assumptions import Prior, battery, prior
from dianoia.circuit.draws import Draws
from dianoia.circuit.feed import BOX, END, IN_BOX, MAIN, battery_branch, blown_ohms, broken_ohms, feed, feed_live_from
from dianoia.circuit.known import KnownValues
from dianoia.circuit.leads import JUMPER_OHMS
from dianoia.circuit.network import DIRTY_OHMS, OPEN_OHMS, Array, Network, each_draw
from dianoia.circuit.types import Change, Circuit, Effect

ON, OFF = "on", "off"
PHASES = (ON, OFF)
GROUND = "battery.negative"
#: The condition of a driver that the scan tool switches on.
COMMANDED = "heater-commanded"
#: Elements are given at this temperature, and a cold one is taken to have it, in °C.
NOMINAL_C = 20.0
#: Platinum-like elements, per K.
TEMPERATURE_COEFFICIENT = (0.003, 0.004)
#: Above this engine speed many modules stop heating, in 1/min.
HIGH_RPM = 3000.0
#: Share of time a pulsed heater is driven.
DUTY = (0.25, 0.9)
#: A relay that runs with the fuel pump primes it for about this long after key on, in s.
PRIME_S = 2.0
#: A hot element's resistance over its cold one, from 2.7 to 3.6.
HOT_RATIO = 3.0
#: What a driver that is on drops at most whatever flows, in V: most are near nought, bipolar ones are not.
DRIVER_DROP_V = 0.35
#: Of the hot element's ohms: a resistance in the loop that takes 15 % of its power, 1 / sqrt(0.85) - 1; and what is called open.
MATTERS_FROM, OPEN_FROM = 0.085, 30.0
#: How often a control wire shorted to battery touches the heater's own feed beside it; own estimate.
TO_FEED = 0.5
#: An element is called open from about ten times its nominal resistance.
ELEMENT_OPEN_FROM = 10.0
#: Chance that a module drives the heater, by key position.
_DRIVEN: Mapping[str, Prior] = {"running": "driven-running", "on": "driven-key-on", "cranking": "driven-cranking"}
#: Share of the draws in which it does not, engine running.
UNWILLING_DRAWN = 0.1


@dataclass(frozen=True)
class HeaterVariant:
    """One way the loop can be wired."""

    known: KnownValues
    switch: HeaterSwitch
    """The side that the module switches; what else is not known of the vehicle is averaged over the draws."""
    draws: Draws


class HeaterLoop:
    """Builds the loop's network for any setting, from one set of draws."""

    def __init__(self, variant: HeaterVariant) -> None:
        self.variant = variant
        self.draws = variant.draws
        self.nominal_ohms, self.element_ohms_20c = _element(variant)
        flat = prior("battery-flat")
        self.battery_is_flat = self.draws.rare("battery is flat", flat, 2 * flat) < flat
        self._unwilling = self.draws.rare("driver unwilling running", 1.0 - prior("driven-running"), UNWILLING_DRAWN)
        self.drive_is_pwm = _drive(variant)
        self.feed_live = feed_live_from(variant.known, self.draws)

    def battery_v(self, key: str) -> Array:
        """Open-circuit battery or charging voltage in volts for a key position."""
        draws, scale = self.draws, self.variant.known.system_v / 12.0
        low, high = battery()[key].usual_v
        healthy = draws.uniform("battery " + key, low, high)
        flat = draws.uniform("battery flat " + key, 0.75 * low, low)
        return scale * np.where(self.battery_is_flat, flat, healthy)

    def feed_is_on(self, setting: Setting) -> Array:
        """1 where the feed's relay is closed, else 0, by when this vehicle's feed is live."""
        live = self.feed_live
        if setting.battery == "disconnected":
            return np.zeros(self.draws.count)
        if setting.key == "off":
            return (live == 0).astype(float)
        if setting.key == "on":
            primed = setting.at_s is not None and setting.at_s <= PRIME_S
            forced = COMMANDED in setting.conditions
            return ((live < 2) | primed | (forced & (self.draws.unit("feed follows command") < 0.7))).astype(float)
        return np.ones(self.draws.count)

    def element_c(self, setting: Setting) -> Array:
        """The element's temperature in °C."""
        draws = self.draws
        if isinstance(setting.sensor_c, int | float):
            return setting.sensor_c + draws.uniform("thermometer", -4.0, 4.0)
        if setting.sensor_c == "hot":
            return draws.uniform("hot element", 180.0, 650.0)
        if setting.connector == "mated" and setting.key == "running":
            return draws.uniform("heated element", 420.0, 780.0) * _warm_share(setting.at_s)
        cold = draws.uniform("cold element", 5.0, 35.0)
        warm = draws.log_uniform("warm element", 35.0, 450.0)
        return np.where(draws.unit("element is warm") < 0.3, warm, cold)

    def command(self, setting: Setting) -> Array:
        """The share of time the module drives the heater, were it not latched off; (draws,)."""
        draws = self.draws
        if not setting.powered or setting.module_connector == "unplugged":
            return np.zeros(draws.count)
        duty = np.where(self.drive_is_pwm, draws.uniform("duty", *DUTY), 1.0)
        if COMMANDED in setting.conditions:
            return np.where(self.drive_is_pwm, np.maximum(duty, 0.5), 1.0)
        willing = prior(_DRIVEN[setting.key])
        if setting.codes_cleared and setting.key == "running":
            willing = prior("driven-cleared")
        if setting.rpm is not None and setting.rpm > HIGH_RPM:
            willing *= 0.6
        unwilling = self._unwilling if setting.key == "running" else draws.unit("driver unwilling " + setting.key)
        return np.where(unwilling >= 1.0 - willing, duty, 0.0)

    def electrical(self, setting: Setting) -> Setting:
        """See ``Loop``: the mixture, the engine's speed and cleared codes say how long each phase lasts. The clock says how hot an element
        that is driven is, and whether a pump relay still primes the feed.
        """
        heats = setting.key == "running" and setting.connector == "mated"
        clock = setting.at_s if heats or setting.key == "on" else None
        forced = setting.conditions & {COMMANDED} if setting.key == "on" else frozenset[str]()
        return replace(setting, at_s=clock, rpm=None, codes_cleared=False, conditions=forced)

    def circuit(self, setting: Setting, phase: str) -> Circuit:
        """The network in a setting with the driver on or off, and what each fault does in it."""
        network = Network(GROUND, self.draws.count)
        branch_at = self._feed(network, setting)
        chain = self._low_side if self.variant.switch == "low-side" else self._high_side
        chain(network, setting, phase == ON, branch_at)
        for a, b in setting.jumpers:
            if network.has_node(a) and network.has_node(b):
                network.bridge(a, b, JUMPER_OHMS)
        return Circuit(network, _effects(self, network), branch_at, switched="driver")

    def _feed(self, network: Network, setting: Setting) -> dict[str, str]:
        draws, connected = self.draws, setting.battery == "connected"
        battery_branch(network, draws, connected, self.battery_v(setting.key))
        relay = np.where(self.feed_is_on(setting) > 0, draws.uniform("relay", 0.01, 0.06), OPEN_OHMS)
        points = feed(network, draws, setting, self.variant.known.feed_order, relay)
        network.branch("chassis strap", "chassis", GROUND, draws.uniform("chassis strap", 0.002, 0.02))
        network.branch("module feed", "battery.positive", "module.power_feed", 0.05 if setting.powered else 2e4)
        network.branch("module ground", "module.power_ground", "chassis", draws.uniform("module ground", 0.002, 0.02))
        network.branch("shell", "sensor.shell", "chassis", draws.uniform("shell", 0.01, 0.2))
        return {**points, "battery.positive": "battery", "battery.negative": "battery"}

    def _low_side(self, network: Network, setting: Setting, driven: bool, branch_at: dict[str, str]) -> None:
        self._wire(network, "heater_supply", END, "harness.heater_supply", branch_at)
        self._plug_and_element(network, setting, branch_at)
        self._wire(network, "heater_control", "module.heater_control", "harness.heater_control", branch_at)
        self._module_pin(network, setting, "heater_control", branch_at)
        self._driver(network, "module_pin.heater_control", "module.power_ground", driven)

    def _high_side(self, network: Network, setting: Setting, driven: bool, branch_at: dict[str, str]) -> None:
        self._driver(network, END, "module_pin.heater_supply", driven)
        self._module_pin(network, setting, "heater_supply", branch_at)
        self._wire(network, "heater_supply", "module.heater_supply", "harness.heater_supply", branch_at)
        self._plug_and_element(network, setting, branch_at)
        self._wire(network, "heater_control", "chassis", "harness.heater_control", branch_at)

    def _wire(self, network: Network, terminal: str, start: str, end: str, branch_at: dict[str, str]) -> None:
        half = self.draws.uniform("wire " + terminal, 0.01, 0.06)
        network.branch(f"wire {terminal} 1", start, f"inline.{terminal}", half)
        network.branch(f"wire {terminal} 2", f"inline.{terminal}", end, half)
        branch_at[f"inline.{terminal}"] = f"wire {terminal} 2"

    def _plug_and_element(self, network: Network, setting: Setting, branch_at: dict[str, str]) -> None:
        mated = setting.connector == "mated"
        for terminal in ("heater_supply", "heater_control"):
            ohms = self.draws.uniform("pin " + terminal, 0.004, 0.03) if mated else OPEN_OHMS
            network.branch(f"pin {terminal}", f"harness.{terminal}", f"sensor.{terminal}", ohms)
            branch_at[f"harness.{terminal}"] = branch_at[f"sensor.{terminal}"] = f"pin {terminal}"
        slope = self.draws.uniform("temperature coefficient", *TEMPERATURE_COEFFICIENT)
        hot = np.maximum(1.0 + slope * (self.element_c(setting) - NOMINAL_C), 0.5)
        network.branch("element", "sensor.heater_supply", "sensor.heater_control", self.element_ohms_20c * hot)

    def _module_pin(self, network: Network, setting: Setting, terminal: str, branch_at: dict[str, str]) -> None:
        mated = setting.module_connector == "mated"
        network.branch("module pin", f"module.{terminal}", f"module_pin.{terminal}", 0.01 if mated else OPEN_OHMS)
        network.branch(
            "module leak", f"module_pin.{terminal}", "module.power_ground", self.draws.log_uniform("leak", 3e4, 5e6)
        )
        branch_at[f"module.{terminal}"] = branch_at[f"module_pin.{terminal}"] = "module pin"

    def _driver(self, network: Network, start: str, end: str, driven: bool) -> None:
        if not driven:
            network.branch("driver", start, end, OPEN_OHMS)
            return
        drop = DRIVER_DROP_V * self.draws.unit("driver drop") ** 2
        network.branch("driver", start, end, self.draws.uniform("driver", 0.05, 0.25), -drop)


def _warm_share(at_s: float | None) -> float:
    """How far the element has come to its working temperature; settled within a minute."""
    return 1.0 if at_s is None else min(1.0, 0.35 + 0.65 * at_s / 30.0)


def _element(variant: HeaterVariant) -> tuple[Array, Array]:
    """Nominal and this part's own resistance at 20 °C, in ohms."""
    draws, known = variant.draws, variant.known
    if known.heater_ohms_20c:
        low, high = sorted(known.heater_ohms_20c)
        return draws.uniform("nominal", low, high), draws.uniform("element", 0.98 * low, 1.02 * high)
    if known.heater_amps:
        low, high = sorted(known.heater_amps)
        hot = 1.16 * known.system_v / draws.uniform("settled current", low, high)
        cold = hot / draws.uniform("hot ratio", 2.7, 3.6)
        return cold, cold
    low, high = known.family.heater_ohms_20c or (2.0, 16.0)
    scale = known.system_v / 12.0
    nominal = draws.log_uniform("nominal", low * scale, high * scale)
    return nominal, nominal * draws.uniform("element", 0.9, 1.1)


def _drive(variant: HeaterVariant) -> Array:
    draws, known = variant.draws, variant.known
    if known.heater_drive:
        return np.full(draws.count, known.heater_drive == "pwm")
    usual = known.family.drive
    return draws.choice("drive", [usual["steady"], usual["pwm"]]) == 1


def _effects(loop: HeaterLoop, network: Network) -> dict[str, Effect]:
    """Fault id -> what it does. Magnitudes in ohms; sources: the electrical facts of the trade."""
    draws, ground = loop.draws, GROUND
    high_side = loop.variant.switch == "high-side"
    hot = HOT_RATIO * loop.element_ohms_20c
    open_ohms = broken_ohms(draws, OPEN_FROM * hot)
    corroded = draws.log_uniform("corroded", MATTERS_FROM, OPEN_FROM) * hot
    short_s = 1.0 / draws.log_uniform("short", 0.02, 1.0)

    def series(ohms: Array | float, *branches: str, choice: str = "", shares: Sequence[float] = ()) -> Effect:
        picked = draws.choice(choice, shares or [1.0] * len(branches)) if choice else None
        port = network.through(*branches, choice=picked)
        return Effect((Change(port, each_draw(ohms, draws.count)),))

    def across(siemens: Array, a: str, b: str) -> Effect:
        return Effect((Change(network.across(a, b), siemens),))

    nominal = loop.nominal_ohms
    spread = loop.element_ohms_20c
    effects = {
        "heater-open": series(draws.log_between("element open", ELEMENT_OPEN_FROM * nominal, DIRTY_OHMS), "element"),
        "heater-high": series(spread * draws.log_uniform("element high", 0.5, 9.0), "element"),
        "heater-low": across(1.0 / (nominal * draws.uniform("element low", 0.25, 1.2)), *_ELEMENT),
        "heater-short": across(1.0 / draws.log_uniform("element short", 0.02, 0.4), *_ELEMENT),
        "fuse-blown": series(blown_ohms(draws), "fuse"),
        "relay-open": series(open_ohms, "relay"),
        "supply-open": series(open_ohms, *MAIN, choice="place main feed"),
        "supply-high": series(corroded, *BOX, choice="weak supply place", shares=IN_BOX),
        "driver-open": Effect(),
        "driver-stuck-on": Effect(),
        "module-ground-high": series(corroded, "module ground"),
    }
    for terminal in ("heater_supply", "heater_control"):
        halves = (f"wire {terminal} 1", f"wire {terminal} 2")
        effects[f"wire-open:{terminal}"] = series(open_ohms, *halves, choice="place " + terminal)
        effects[f"wire-high:{terminal}"] = series(corroded, *halves, choice="place " + terminal)
        effects[f"pin-open:{terminal}"] = series(open_ohms, f"pin {terminal}")
    feed, cold = "harness.heater_supply", "harness.heater_control"
    short_hot = across(short_s, feed, ground)
    blown = () if high_side else series(blown_ohms(draws), "fuse").changes
    effects["wire-short-ground:heater_supply"] = Effect(short_hot.changes + blown)
    if high_side:
        effects["wire-short-battery:heater_supply"] = across(short_s, feed, "battery.positive")
        del effects["module-ground-high"]
        return effects
    effects["wire-short-ground:heater_control"] = across(1.0 / draws.log_uniform("short", 0.02, 5.0), cold, ground)
    to_feed = draws.unit("control touches the feed") < TO_FEED
    touched = network.across_either(cold, (feed, "battery.positive"), to_feed)
    effects["wire-short-battery:heater_control"] = Effect(
        (Change(touched, 1.0 / draws.log_uniform("short", 0.02, 3.0)),)
    )
    return effects


_ELEMENT = ("sensor.heater_supply", "sensor.heater_control")
