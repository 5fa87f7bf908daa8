"""The steps of a check, one module each: what it asks for, what becomes of it, what it shows."""

from collections.abc import Mapping

from waldhorn.pit.panels import (
    detent,
    first_spin,
    flywheel,
    gap,
    heat,
    load,
    look,
    noise,
    poles,
    pull,
    sensors,
    set_timing,
    timing,
)
from waldhorn.pit.panels.panel import Panel

PANELS: Mapping[str, Panel] = {
    panel.step.name: panel
    for panel in (
        look.PANEL,
        gap.PANEL,
        detent.PANEL,
        sensors.PANEL,
        poles.PANEL,
        first_spin.PANEL,
        pull.PANEL,
        timing.PANEL,
        noise.PANEL,
        heat.PANEL,
        set_timing.PANEL,
        load.PANEL,
        flywheel.PANEL,
    )
}
