"""Pictures that several screens use: the motor, strips, curves, charts, the machine from above.

They place what was computed; nothing is worked out here. Begin with `motor`."""
