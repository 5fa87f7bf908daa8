"""A bench in a box: a motor model with faults, the analyser that speaks the bench line, the demo's season.

It stands in for what is not there; nothing that judges may know it. Begin with `motor_model`, then `analyser`."""
