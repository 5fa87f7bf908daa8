"""The check: its steps (a module each in `steps`), what comes next, drafts, the live run, undoing.

`context` loads what a check needs, `stepper` decides what is next, `checks` takes what was typed, `view` is what the
screen shows, `live` runs an instrument, `signing` ends it. Begin with `context`, then `steps.step`."""
